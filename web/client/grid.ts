import type { RecordApi } from '../../server/api';
import type { ViewRecord, Write } from '../../server/gate/gate';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type { TableInfo } from '../../server/columns/column-info';
import type { Outcome } from '../../server/records/record-answers';
import { recordAddress, records } from './portal';

export type { Outcome, TableInfo, ViewRecord, Write };

/** What a grid asks for; columns, sort and filter in the API's text forms. */
export interface GridQuestion {
  columns: string;
  sort: string;
  filter: string;
  search: string;
}

const pageSize = 100;

export const readTableInfo = (base: string, table: string): Promise<TableInfo> =>
  records(base)('GET /tables/:table', { params: { table } });

export function useTableInfo(base: string, table: string, enabled = true) {
  return useQuery({ queryKey: [base, 'table', table], enabled, queryFn: () => readTableInfo(base, table) });
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
    queryFn: ({ pageParam }) => readRecords(base, table, { ...question, after: pageParam, size: pageSize }),
    getNextPageParam: (last) => last.next ?? undefined,
    refetchOnWindowFocus: false,
    staleTime: Infinity,
    // Comparing all pages that are there with each that comes takes longer the further somebody scrolls.
    structuralSharing: false,
  });
}

/** How many records answer the question. */
export function useGridTotal(base: string, table: string, { columns, filter, search }: GridQuestion) {
  return useQuery({
    queryKey: [base, 'grid-total', table, search === '' ? '' : columns, filter, search],
    placeholderData: keepPreviousData,
    queryFn: async () => {
      const query = { filter, search, size: 1, columns };
      return (await records(base)('GET /records/:table', { params: { table }, query })).total!;
    },
  });
}

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
    const answer = await records(base)('POST /records/:table/several', {
      params: { table },
      body: { mode: 'each by itself', writes: writes.slice(from, from + atOnce) },
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

/** Records without their number. */
export function readRecords(
  base: string,
  table: string,
  question: Partial<GridQuestion> & { after?: string; size: number },
) {
  return records(base)('GET /records/:table', { params: { table }, query: { ...question, counted: false } });
}

export function useCandidates(base: string, table: string, relation: string | null, search: string) {
  return useQuery({
    queryKey: [base, 'lookup', table, relation, search],
    enabled: relation !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      records(base)('GET /lookups/:table/:relation', { params: { table, relation: relation! }, query: { search } }),
  });
}

export type ExportFormat = NonNullable<RecordApi['GET /exports/:table']['query']['format']>;

export function exportAddress(
  base: string,
  table: string,
  question: GridQuestion,
  format: ExportFormat,
  guard: boolean,
): string {
  return recordAddress(base)('GET /exports/:table', { params: { table }, query: { ...question, format, guard } });
}
