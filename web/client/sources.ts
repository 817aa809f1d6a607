import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { CeilingForm, SourceChange } from '../../server/shaping/kept-endpoints';
import type { SavedQuery } from '../../server/gate/gate';
import { bench } from './bench';

export type { CeilingForm, SavedQuery, SourceChange };

export function useCeiling(slug: string, table: string) {
  return useQuery({
    queryKey: ['builder', slug, 'ceiling', table],
    queryFn: () => bench(slug)('GET /ceilings/:table', { params: { table } }),
  });
}

export function useKeepCeiling(slug: string, table: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (form: CeilingForm) => bench(slug)('PUT /ceilings/:table', { params: { table }, body: form }),
    onSuccess: () => client.invalidateQueries(),
  });
}

export function useQueries(slug: string) {
  return useQuery({ queryKey: ['builder', slug, 'queries'], queryFn: () => bench(slug)('GET /queries') });
}

/** Tries a query; with `keep` it is a table from then on. */
export function useSaveQuery(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: SavedQuery & { keep: boolean }) => bench(slug)('POST /queries', { body }),
    onSuccess: (_, { keep }) => (keep ? client.invalidateQueries({ queryKey: ['builder', slug] }) : undefined),
  });
}

export function useForgetQuery(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (name: string) => bench(slug)('DELETE /queries/:name', { params: { name } }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}

/** Gives the portal a further source, or takes one out. */
export function useFurtherSource(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (order: { add: { name: string; connection: string; schema: string } } | { remove: string }) =>
      'add' in order
        ? bench(slug)('POST /sources', { body: order.add })
        : bench(slug)('DELETE /sources/:name', { params: { name: order.remove } }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}

/**
 * The tables of a source as its database has them, and which of them the portal may use: null for all. `name` is null
 * for the portal's own.
 */
export function useTableChoice(slug: string, name: string | null) {
  return useQuery({
    queryKey: ['builder', slug, 'table-choice', name],
    queryFn: () => bench(slug)('GET /sources/tables', { query: { name } }),
  });
}

export function useChooseTables(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string | null; tables: string[] | null }) =>
      bench(slug)('PUT /sources/tables', { body }),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}

/** Asks the database what has changed since somebody looked last. */
export function useLookAgain(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => bench(slug)('GET /look-again'),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug, 'portal'] }),
  });
}

export function useSeenIt(slug: string) {
  return useMutation({ mutationFn: () => bench(slug)('POST /look-again') });
}
