import type { BringOutcome } from '../../server/gate/gate';
import { useState } from 'react';
import { useMutation, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import type { FilePreview, RefusedCell } from '../../server/imports/file-to-table';
import type { FileFacts } from '../../server/formats/file-facts';
import type { ImportResult } from '../../server/imports/import-jobs';
import type { JobState } from '../../server/jobs/jobs';
import { bench, benchAddress, type BenchApi } from './bench';
import { formOf, ServerProblem } from './http';

export type { BringOutcome, FileFacts, ImportResult, JobState, RefusedCell };

/** A file that was read through, and the address that it is kept under. */
export type ReadFile = FilePreview & { file: string; name: string };

/** Sends a file; the job reads it through. */
export function useSendFile(slug: string) {
  return useMutation({ mutationFn: (file: File) => bench(slug)('POST /files', { body: formOf(file) }) });
}

/** What a job on a file is begun with. */
export type JobOrder = BenchApi['POST /jobs']['body'];

/** Begins long work. */
export function useStartJob<Order>(begin: (order: Order) => Promise<JobState>) {
  return useMutation({ mutationFn: begin });
}

/** Whether a job is over, whichever way. */
export function isOver(job: JobState | undefined): boolean {
  return job !== undefined && ['done', 'failed', 'cancelled'].includes(job.state);
}

/** A job and how far it is, asked again and again until it is over. */
export function useJob(slug: string, id: number | null) {
  return useQuery({
    queryKey: ['builder', slug, 'job', id],
    enabled: id !== null,
    staleTime: Infinity,
    queryFn: () => bench(slug)('GET /jobs/:job', { params: { job: id! } }),
    refetchInterval: (query) => (isOver(query.state.data) ? false : query.state.dataUpdateCount < 8 ? 150 : 700),
  });
}

/** The jobs of the portal that wait or run, whoever began them. */
export function useRunningJobs(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'jobs'],
    queryFn: async () => (await bench(slug)('GET /jobs')).jobs,
    refetchInterval: 3000,
  });
}

/** The jobs of the portal that were running and are over since this window looked, with what became of them. */
export function useEndedJobs(slug: string, running: JobState[] | undefined): JobState[] {
  const [seen, setSeen] = useState<number[]>([]);
  const now = running?.map((job) => job.id);
  if (now?.some((id) => !seen.includes(id))) setSeen([...new Set([...seen, ...now])]);
  const gone = now === undefined ? [] : seen.filter((id) => !now.includes(id));
  const found = useQueries({
    queries: gone.map((id) => ({
      queryKey: ['builder', slug, 'job', id],
      staleTime: Infinity,
      queryFn: () => bench(slug)('GET /jobs/:job', { params: { job: id } }),
    })),
  });
  return found.flatMap(({ data }) => (isOver(data) ? [data!] : []));
}

export function useCancelJob(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: number) => bench(slug)('POST /jobs/:job/cancel', { params: { job: id } }),
    onSuccess: (_, id) => client.invalidateQueries({ queryKey: ['builder', slug, 'job', id] }),
  });
}

/** What went wrong with a job that failed, as an error like any other. */
export function jobProblem(job: JobState | undefined): ServerProblem | null {
  if (job?.state !== 'failed') return null;
  const problem = ((job.result as { problem?: Record<string, unknown> } | null)?.problem ?? {}) as Record<
    string,
    unknown
  >;
  return new ServerProblem(
    Number(problem.status ?? 500),
    String(problem.type ?? '')
      .split(':')
      .at(-1)!,
    String(problem.detail ?? 'Something went wrong. Try again.'),
    problem,
  );
}

export function useImportPlan(slug: string, file: string, table: string) {
  return useQuery({
    queryKey: ['builder', slug, 'import-plan', file, table],
    staleTime: Infinity,
    queryFn: () => bench(slug)('GET /files/:file/plan/:table', { params: { file, table } }),
  });
}

export function fileAddress(slug: string, file: string): string {
  return benchAddress(slug)('GET /files/:file', { params: { file } });
}
