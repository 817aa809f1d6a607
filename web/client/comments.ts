import { useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query';
import type { RecordApi } from '../../server/api';
import type { Circle } from '../../core/definition/hung';
import { records } from './portal';

type Talk = RecordApi['GET /records/:table/:id/comments']['answer'];
export type CommentTold = Talk['comments'][number];
export type DoubtTold = NonNullable<CommentTold['wrong']>;
export type { Circle };

/** What was said of a record: the newest, and what is before them when it is asked for. */
export function useComments(base: string, table: string, id: string) {
  return useInfiniteQuery({
    queryKey: [base, 'comments', table, id],
    queryFn: ({ pageParam: before }) =>
      records(base)('GET /records/:table/:id/comments', {
        params: { table, id },
        query: before === null ? {} : { before },
      }),
    initialPageParam: null as number | null,
    getNextPageParam: ({ comments, earlier }) => (earlier > 0 ? comments[0]!.id : undefined),
    refetchInterval: 30_000,
  });
}

/** Says something of a record, and takes out what was said. */
export function useSaying(base: string, table: string, id: string) {
  const client = useQueryClient();
  const done = { onSuccess: () => client.invalidateQueries({ queryKey: [base, 'comments', table, id] }) };
  const ask = records(base);
  return {
    say: useMutation({
      mutationFn: (body: { text: string; circle: Circle; wrong?: { column: string; meant?: unknown } }) =>
        ask('POST /records/:table/:id/comments', { params: { table, id }, body }),
      ...done,
    }),
    takeOut: useMutation({
      mutationFn: (comment: number) =>
        ask('DELETE /records/:table/:id/comments/:comment', { params: { table, id, comment } }),
      ...done,
    }),
  };
}
