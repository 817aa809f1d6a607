import { useInfiniteQuery } from '@tanstack/react-query';
import type { RecordApi } from '../../server/api';
import { records } from './portal';

export type HistoryLine = RecordApi['GET /records/:table/:id/history']['answer']['lines'][number];

/** What changed in a record: the newest, and what was before that when it is asked for. */
export function useHistory(base: string, table: string, id: string, enabled: boolean) {
  return useInfiniteQuery({
    queryKey: [base, 'history', table, id],
    enabled,
    queryFn: ({ pageParam: skip }) =>
      records(base)('GET /records/:table/:id/history', {
        params: { table, id },
        query: { skip },
      }),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next ?? undefined,
  });
}
