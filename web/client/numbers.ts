import { useQuery } from '@tanstack/react-query';
import type { RecordApi } from '../../server/api';
import { records, type ListParams } from './portal';
import { whileSame } from './same-subject';

export type FigureTaken = RecordApi['GET /pages/:page/:section/figure']['answer'];

/** How the list stands that a section's numbers go with. */
type Narrowed = Pick<ListParams, 'view' | 'search' | 'filter'>;

export function useFigure(base: string, page: string, section: string, query: Narrowed, enabled: boolean) {
  const asked = { params: { page, section }, query };
  const queryKey = [base, 'list', 'figure', page, section, query];
  return useQuery({
    queryKey,
    queryFn: () => records(base)('GET /pages/:page/:section/figure', asked),
    placeholderData: whileSame(queryKey),
    enabled,
  });
}

export type ChartAnswer = RecordApi['GET /pages/:page/:section/chart']['answer'];

/** A chart's numbers; of a list, by what `draw` says. */
export function useChart(
  base: string,
  page: string,
  section: string,
  query: Narrowed & { draw: string },
  enabled: boolean,
) {
  const asked = { params: { page, section }, query };
  const queryKey = [base, 'list', 'chart', page, section, query];
  return useQuery({
    queryKey,
    queryFn: () => records(base)('GET /pages/:page/:section/chart', asked),
    placeholderData: whileSame(queryKey),
    enabled,
  });
}

/** The sums below a list's columns; nothing is asked where it has none. */
export function useTotals(base: string, page: string, section: string, query: Narrowed, enabled: boolean) {
  const asked = { params: { page, section }, query };
  const queryKey = [base, 'list', 'totals', page, section, query];
  return useQuery({
    queryKey,
    queryFn: () => records(base)('GET /pages/:page/:section/totals', asked),
    placeholderData: whileSame(queryKey),
    enabled,
  });
}

/** How many records each tab of a list holds. */
export function useCounts(base: string, page: string, section: string) {
  const asked = { params: { page, section } };
  return useQuery({
    queryKey: [base, 'list', 'counts', page, section],
    queryFn: () => records(base)('GET /pages/:page/:section/counts', asked),
  });
}
