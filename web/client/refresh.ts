import { useEffect, useState } from 'react';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { bench } from './bench';
import type { RefreshOutcome } from '../../server/people/refresh';
import { useBenchAction } from './builder';
import { portalKey } from './draft';
import { benchFiles, isOver, jobProblem, useJob } from './files';

export type { RefreshOutcome };

/** When the list was last brought in line, by whomever. */
export function useLastRefresh(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'members', 'refreshed'],
    queryFn: () => bench(slug)('GET /refreshed'),
    refetchInterval: 60_000,
  });
}

/** Brings the members in line with the rosters, by a job; what depends on them is read anew when it is done. */
export function useRefresh(slug: string) {
  const client = useQueryClient();
  const [job, setJob] = useState<number | null>(null);
  const start = useBenchAction(slug, 'POST /members/refresh');
  const state = useJob(benchFiles(slug), job).data;
  const isDone = state?.state === 'done';
  useEffect(() => {
    if (!isDone) return;
    void client.invalidateQueries({ queryKey: ['builder', slug, 'members'] });
    void client.invalidateQueries({ queryKey: ['builder', slug, 'findings'] });
    void client.invalidateQueries({ queryKey: portalKey(slug) });
  }, [client, slug, isDone, job]);
  return {
    job,
    begin: () => {
      setJob(null);
      start.mutate({}, { onSuccess: (begun) => setJob(begun.id) });
    },
    isBusy: start.isPending || (job !== null && !isOver(state)),
    outcome: isDone ? (state.result as RefreshOutcome) : null,
    problem: start.error ?? jobProblem(state),
  };
}
