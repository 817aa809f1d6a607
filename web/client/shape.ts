import type { TypeChange, Gone, MissingIndex } from '../../server/gate/gate';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { ask } from './http';

export type { Gone, MissingIndex, TypeChange };

const at = (slug: string) => `/builder/portals/${slug}/shape`;

export const columnPath = (table: string, column?: string) =>
  `/tables/${encodeURIComponent(table)}${column === undefined ? '' : `/columns/${encodeURIComponent(column)}`}`;

/** What was deleted in the last day, and which indexes would help. */
export function useShape(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'shape'],
    queryFn: () => ask<{ own: boolean; gone: Gone[]; missing: MissingIndex[] }>('GET', at(slug)),
    staleTime: 30_000,
  });
}

export function useUses(slug: string, table: string, column?: string) {
  const query = new URLSearchParams({ table, ...(column === undefined ? {} : { column }) });
  return useQuery({
    queryKey: ['builder', slug, 'uses', table, column ?? null],
    queryFn: () => ask<{ uses: { portal: string; uses: string[] }[] }>('GET', `${at(slug)}/uses?${query.toString()}`),
  });
}

/** Shapes something; everything of the portal is read anew then. */
export function useShaping<T = void>(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ method = 'POST', path, body }: { method?: 'POST' | 'DELETE'; path: string; body?: unknown }) =>
      ask<T>(method, `${at(slug)}${path}`, body),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}
