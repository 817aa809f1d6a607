import { useQuery } from '@tanstack/react-query';
import type { ProofTold } from '../../server/review/proof-run';
import { bench } from './bench';
import { benchFiles, isOver, jobProblem, useJob, useStartJob } from './files';

export type { ProofTold };

/** A proof run by the number of its job: how far it is, and what came of it. */
export function useProofRun(slug: string, job: number | null) {
  const begin = useStartJob((body: { of: 'draft' | 'live'; writes: boolean; questions: number }) =>
    bench(slug)('POST /proof-runs', { body: { ...body, seed: null } }),
  );
  const state = useJob(benchFiles(slug), job);
  const over = isOver(state.data) ? job : null;
  const kept = useQuery({
    queryKey: ['builder', slug, 'proof-runs', over],
    queryFn: () => bench(slug)('GET /proof-runs'),
    placeholderData: (before) => before,
  });
  return {
    begin,
    isRunning: job !== null && state.data !== undefined && !isOver(state.data),
    told: state.data?.state === 'done' ? (state.data.result as ProofTold) : null,
    problem: state.error ?? jobProblem(state.data),
    kept: kept.data?.runs ?? [],
  };
}
