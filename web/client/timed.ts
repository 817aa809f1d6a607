import { useMutation, useQuery } from '@tanstack/react-query';
import { bench, type BenchApi } from './bench';
import { enqueue } from './draft';

export type TimedRun = BenchApi['GET /timed-runs/:kind/:subject']['answer']['runs'][number];

/** What was done at its time on the last days, looked at again while something goes on. */
export function useTimedRuns(slug: string, kind: 'action' | 'brought', subject: string) {
  return useQuery({
    queryKey: ['builder', slug, 'timed', kind, subject],
    queryFn: () => bench(slug)('GET /timed-runs/:kind/:subject', { params: { kind, subject } }),
    refetchInterval: ({ state }) => (state.data?.runs.some(({ state: at }) => at === 'running') ? 2000 : 30_000),
  });
}

/** Fetches at once what is brought, once one's own edits are kept, and gives the job that reads it through. */
export function useFetchBrought(slug: string, brought: string) {
  return useMutation({
    mutationFn: () => enqueue(slug, () => bench(slug)('POST /brought/:brought/fetch', { params: { brought } })),
  });
}
