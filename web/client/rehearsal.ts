import type { Named, Rehearsal, RehearsedPage } from '../../server/review/rehearsal';
import { bench } from './bench';
import { benchFiles, isOver, jobProblem, useJob, useStartJob } from './files';

export type { Named as NamedPeople, RehearsedPage };

/** A rehearsal by the number of its job: how far it is, and what came of it. */
export function useRehearsal(slug: string, job: number | null) {
  const begin = useStartJob(() => bench(slug)('POST /rehearsal'));
  const state = useJob(benchFiles(slug), job);
  return {
    begin,
    isRunning: job !== null && state.data !== undefined && !isOver(state.data),
    told: state.data?.state === 'done' ? (state.data.result as Rehearsal) : null,
    problem: state.error ?? jobProblem(state.data),
  };
}
