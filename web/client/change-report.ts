import type { ChangeReport } from '../../server/versions/change-report';
import { bench } from './bench';
import { benchFiles, isOver, jobProblem, useJob, useStartJob } from './files';

export type { ChangeReport };

/** A change report by the number of its job: how far it is, and what came of it. */
export function useChangeReport(slug: string, job: number | null) {
  const begin = useStartJob((body: { from: number | null; to: number | null }) =>
    bench(slug)('POST /change-report', { body }),
  );
  const state = useJob(benchFiles(slug), job);
  return {
    begin,
    isRunning: job !== null && state.data !== undefined && !isOver(state.data),
    told: state.data?.state === 'done' ? (state.data.result as ChangeReport) : null,
    problem: state.error ?? jobProblem(state.data),
  };
}
