import { constantOf } from '../../core/condition/constant';
import { printOperand } from '../../core/condition/print';
import { useQuery } from '@tanstack/react-query';
import type { LinkedTold } from '../../server/records/linked-lists';
import type { GroupTold } from '../../server/records/sheet-told';
import { pathsOf, records } from './portal';
import { whileSame } from './same-subject';

export type { GroupTold, LinkedTold };

/** Records that point at a record, a few at a time. */
export function useRelated(
  base: string,
  table: string,
  id: string,
  { relation, columns }: LinkedTold,
  at: { after: string; before: string },
) {
  const query = { columns: pathsOf(columns).join(','), size: 10, ...at };
  const asked = { params: { table, id, relation }, query };
  const queryKey = [base, 'list', 'related', table, id, relation, query];
  return useQuery({
    queryKey,
    queryFn: () => records(base)('GET /records/:table/:id/related/:relation', asked),
    placeholderData: whileSame(queryKey),
  });
}

/** Numbers over all records that point at a record, as the person sees them; in the order of the figures. */
export function useRelatedFigures(base: string, id: string, { table, pointing, figures }: LinkedTold) {
  const constant = printOperand(constantOf(pointing?.type, decodeURIComponent(id)));
  const body = {
    measures: figures.map(({ measure, column }) => ({ what: measure, column: column.path })),
    by: [],
    filter: `${pointing?.path} = ${constant}`,
    smallestGroup: 0,
  };
  return useQuery({
    queryKey: [base, 'list', 'figures', table, body],
    queryFn: () => records(base)('POST /figures/:table', { params: { table }, body }),
    enabled: pointing !== null && figures.length > 0,
  });
}
