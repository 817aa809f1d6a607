import type { BringOutcome } from '../../server/gate/gate';
import { useState } from 'react';
import { useMutation, useQueries, useQuery, useQueryClient, type Query } from '@tanstack/react-query';
import type { FilePreview, RefusedCell } from '../../server/imports/file-to-table';
import type { FileFacts } from '../../server/formats/file-facts';
import type { ImportResult } from '../../server/imports/import-jobs';
import type { JobState } from '../../server/jobs/jobs';
import type { KeptApi, OwnJobApi } from '../../server/api';
import type { ImportPlan } from '../../core/table/import-plan';
import type { ImportTarget } from '../../core/table/import-target';
import { bench, benchAddress } from './bench';
import { addressAt, askAt, formOf, ServerProblem } from './http';

export type { BringOutcome, FileFacts, ImportResult, JobState, RefusedCell };

/** A file that was read through, and the address that it is kept under. */
export type ReadFile = FilePreview & { file: string; name: string };

/** How somebody's jobs are asked for and stopped. */
export interface JobWays {
  /** By what their answers are known. */
  key: readonly string[];
  job(id: number): Promise<JobState>;
  cancel(id: number): Promise<unknown>;
}

/** How files are sent and jobs followed by whoever does it: a builder at a portal, or a steward. */
export interface FileWays extends JobWays {
  /** The job reads it through. */
  send(file: File): Promise<JobState>;
  readAgain(file: string, sheet: string): Promise<JobState>;
}

/** How a file goes into a table that is there. */
export interface ImportWays extends FileWays {
  plan(file: string): Promise<{ plan: ImportPlan; remembered: boolean; target: ImportTarget }>;
  look(file: string, plan: ImportPlan): Promise<JobState>;
  bring(file: string, plan: ImportPlan, mode: BringMode, digest: string): Promise<JobState>;
  /** The address of the records that a job refused. */
  refused(job: number, file: string): string;
}

export type BringMode = 'all or nothing' | 'without the refused';

/** A builder's. */
export const benchFiles = (slug: string): FileWays => ({
  key: ['builder', slug],
  send: (file) => bench(slug)('POST /files', { body: formOf(file) }),
  readAgain: (file, sheet) => bench(slug)('POST /files/:file/read', { params: { file }, body: { sheet } }),
  job: (id) => bench(slug)('GET /jobs/:job', { params: { job: id } }),
  cancel: (id) => bench(slug)('POST /jobs/:job/cancel', { params: { job: id } }),
});

/** A steward's, into the table that they keep. */
export const keptFiles = (base: string, steward: string): ImportWays => {
  const ask = askAt<KeptApi>(base);
  return {
    key: [base, 'kept', steward],
    send: (file) => ask('POST /bring/:steward/files', { params: { steward }, body: formOf(file) }),
    readAgain: (file, sheet) =>
      ask('POST /bring/:steward/files/:file/read', { params: { steward, file }, body: { sheet } }),
    job: (id) => ask('GET /jobs/:job', { params: { job: id } }),
    cancel: (id) => ask('POST /jobs/:job/cancel', { params: { job: id } }),
    plan: (file) => ask('GET /bring/:steward/files/:file/plan', { params: { steward, file } }),
    look: (file, plan) => ask('POST /bring/:steward/look', { params: { steward }, body: { file, plan } }),
    bring: (file, plan, mode, digest) =>
      ask('POST /bring/:steward/import', { params: { steward }, body: { file, plan, mode, digest } }),
    refused: (job) => addressAt<KeptApi>(base)('GET /bring/:steward/jobs/:job/refused', { params: { steward, job } }),
  };
};

/** What a member's jobs do: spreadsheets of what is on pages, and actions with many records. */
export const ownJobs = (base: string) => {
  const ask = askAt<OwnJobApi>(base);
  return {
    key: [base, 'sheets'],
    act: (table: string, action: string, body: OwnJobApi['POST /records/:table/actions/:action/job']['body']) =>
      ask('POST /records/:table/actions/:action/job', { params: { table, action }, body }),
    job: (id: number) => ask('GET /jobs/:job', { params: { job: id } }),
    cancel: (id: number) => ask('POST /jobs/:job/cancel', { params: { job: id } }),
    begin: (page: string, section: string, body: SheetBody) =>
      ask('POST /pages/:page/:section/sheet', { params: { page, section }, body }),
    file: (job: number) => addressAt<OwnJobApi>(base)('GET /jobs/:job/file', { params: { job } }),
  };
};

type SheetBody = OwnJobApi['POST /pages/:page/:section/sheet']['body'];

/** Begins long work. */
export function useStartJob<Order>(begin: (order: Order) => Promise<JobState>) {
  return useMutation({ mutationFn: begin });
}

/** Whether a job is over, whichever way. */
export function isOver(job: JobState | undefined): boolean {
  return job !== undefined && ['done', 'failed', 'cancelled'].includes(job.state);
}

/** A job and how far it is, asked again and again until it is over. */
export function useJob(ways: JobWays, id: number | null) {
  return useQuery({
    queryKey: [...ways.key, 'job', id],
    enabled: id !== null,
    staleTime: Infinity,
    queryFn: () => ways.job(id!),
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

/**
 * What became of the jobs of the portal that were running since this window looked: those that are over, and those that
 * run no more and of which that is not known yet.
 */
export function useEndedJobs(
  slug: string,
  running: JobState[] | undefined,
): { ended: JobState[]; awaited: JobState[] } {
  const [seen, setSeen] = useState<JobState[]>([]);
  const added = running?.filter(({ id }) => !seen.some((job) => job.id === id)) ?? [];
  if (added.length > 0) setSeen([...seen, ...added]);
  const gone = running === undefined ? [] : seen.filter(({ id }) => !running.some((job) => job.id === id));
  const found = useQueries({
    queries: gone.map(({ id }) => ({
      queryKey: ['builder', slug, 'job', id],
      staleTime: Infinity,
      queryFn: () => bench(slug)('GET /jobs/:job', { params: { job: id } }),
      // What its progress was told last may be from before its end.
      refetchInterval: (query: Query<JobState>) =>
        isOver(query.state.data) || query.state.status === 'error' ? false : 700,
    })),
  });
  return {
    ended: found.flatMap(({ data }) => (isOver(data) ? [data!] : [])),
    awaited: gone.filter((_, i) => !isOver(found[i]!.data) && !found[i]!.isError),
  };
}

export function useCancelJob(ways: JobWays) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: number) => ways.cancel(id),
    onSuccess: (_, id) => client.invalidateQueries({ queryKey: [...ways.key, 'job', id] }),
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

export function useImportPlan(ways: ImportWays, file: string, table: string) {
  return useQuery({
    queryKey: [...ways.key, 'import-plan', file, table],
    staleTime: Infinity,
    queryFn: () => ways.plan(file),
  });
}

export function fileAddress(slug: string, file: string): string {
  return benchAddress(slug)('GET /files/:file', { params: { file } });
}
