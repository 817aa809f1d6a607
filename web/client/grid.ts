import type { ViewRecord, ListAnswer, ListPage, Write, Candidate } from '../../server/gate/gate';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type { TableInfo } from '../../server/pages/page-info';
import { ask } from './http';
import { listQueryString } from './portal';

export type { Candidate, TableInfo, ViewRecord, Write };

/** What a grid asks for; columns, sort and filter in the API's text forms. */
export interface GridQuestion {
  columns: string;
  sort: string;
  filter: string;
  search: string;
}

const pageSize = 100;

export function useTableInfo(base: string, table: string) {
  return useQuery({
    queryKey: [base, 'table', table],
    queryFn: () => ask<TableInfo>('GET', `${base}/tables/${encodeURIComponent(table)}`),
  });
}

/**
 * Records page by page, each going on from the last by its keys. Their number is asked for beside them, so that the
 * first rows of a large table don't wait for it.
 */
export function useGridRows(base: string, table: string, question: GridQuestion) {
  return useInfiniteQuery({
    queryKey: [base, 'grid', table, question],
    placeholderData: keepPreviousData,
    initialPageParam: '',
    queryFn: ({ pageParam }) =>
      ask<ListPage>(
        'GET',
        `${base}/records/${encodeURIComponent(table)}` +
          `${listQueryString({ ...question, after: pageParam, size: pageSize })}&counted=false`,
      ),
    getNextPageParam: (last) => last.next ?? undefined,
    refetchOnWindowFocus: false,
    staleTime: Infinity,
  });
}

/** How many records answer the question. */
export function useGridTotal(base: string, table: string, { columns, filter, search }: GridQuestion) {
  return useQuery({
    queryKey: [base, 'grid-total', table, search === '' ? '' : columns, filter, search],
    placeholderData: keepPreviousData,
    queryFn: async () =>
      (
        await ask<ListAnswer>(
          'GET',
          `${base}/records/${encodeURIComponent(table)}` +
            listQueryString(Object.assign({ filter, search, size: 1 }, { columns })),
        )
      ).total,
  });
}

export type Outcome =
  | { done: true; id: string | null; record: ViewRecord | null }
  | { done: false; detail: string; type: string; fields?: Record<string, unknown> };

const atOnce = 400;

/** Makes writes, each by itself; gives what came of each, in order. */
export async function writeRecords(
  base: string,
  table: string,
  writes: Write[],
  progress: (done: number) => void = () => undefined,
): Promise<Outcome[]> {
  const outcomes: Outcome[] = [];
  for (let from = 0; from < writes.length; from += atOnce) {
    const answer = await ask<{ outcomes: Outcome[] }>('POST', `${base}/records/${encodeURIComponent(table)}/several`, {
      mode: 'each by itself',
      writes: writes.slice(from, from + atOnce),
    });
    outcomes.push(...answer.outcomes);
    progress(outcomes.length);
  }
  return outcomes;
}

/** Why a write was refused, beside the column where that is known. */
export function refusalText(outcome: Outcome, column?: string): string {
  if (outcome.done) return '';
  const field = column === undefined ? undefined : outcome.fields?.[column];
  if (typeof field === 'string') return field;
  if (outcome.type.endsWith(':conflict')) return 'Someone else has changed this in the meantime.';
  const [first] = Object.values(outcome.fields ?? {});
  return typeof first === 'string' ? first : outcome.detail;
}

export function readRecords(
  base: string,
  table: string,
  question: Partial<GridQuestion> & { after?: string; size: number },
) {
  return ask<ListPage>('GET', `${base}/records/${encodeURIComponent(table)}${listQueryString(question)}&counted=false`);
}

export function useCandidates(base: string, table: string, relation: string | null, search: string) {
  return useQuery({
    queryKey: [base, 'lookup', table, relation, search],
    enabled: relation !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      ask<{ candidates: Candidate[] }>(
        'GET',
        `${base}/lookups/${encodeURIComponent(table)}/${encodeURIComponent(relation!)}` +
          `?search=${encodeURIComponent(search)}`,
      ),
  });
}

export function exportAddress(
  base: string,
  table: string,
  question: GridQuestion,
  format: string,
  guard: boolean,
): string {
  const asked = listQueryString({ ...question });
  return `/api${base}/exports/${encodeURIComponent(table)}${asked}&format=${format}&guard=${guard}`;
}
