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
