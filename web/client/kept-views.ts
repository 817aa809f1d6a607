import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { KeptViewApi } from '../../server/api';
import { askAt } from './http';

type KeptViews = KeptViewApi['GET /pages/:page/:section/views']['answer'];
export type KeptView = KeptViews['views'][number];
export type Standing = NonNullable<KeptView['standing']>;

interface Kept {
  name: string;
  roles: string[];
  people: string[];
  standing: Standing;
}

const views = (base: string) => askAt<KeptViewApi>(base);

/** The views of a list that somebody keeps or is given. */
export function useKeptViews(base: string, page: string, section: string) {
  return useQuery({
    queryKey: [base, 'kept views', page, section],
    queryFn: () => views(base)('GET /pages/:page/:section/views', { params: { page, section } }),
  });
}

/** Keeps a view, writes over one, or takes one out. */
export function useChangeViews(base: string, page: string, section: string) {
  const client = useQueryClient();
  const done = { onSuccess: () => client.invalidateQueries({ queryKey: [base, 'kept views', page, section] }) };
  const params = { page, section };
  return {
    keep: useMutation({
      mutationFn: ({ kept, ...body }: Kept & { kept: number | null }) =>
        kept === null
          ? views(base)('POST /pages/:page/:section/views', { params, body })
          : views(base)('PUT /pages/:page/:section/views/:kept', { params: { ...params, kept }, body }),
      ...done,
    }),
    drop: useMutation({
      mutationFn: (kept: number) =>
        views(base)('DELETE /pages/:page/:section/views/:kept', { params: { ...params, kept } }),
      ...done,
    }),
  };
}
