import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { CatalogueChange } from '../../core/table/compare-catalogues';
import type { CeilingForm } from '../../server/shaping/source-routes';
import { ask } from './http';

export type { CeilingForm };

const at = (slug: string) => `/builder/portals/${slug}`;

export function useCeiling(slug: string, table: string) {
  return useQuery({
    queryKey: ['builder', slug, 'ceiling', table],
    queryFn: () => ask<CeilingForm>('GET', `${at(slug)}/ceilings/${encodeURIComponent(table)}`),
  });
}

export function useKeepCeiling(slug: string, table: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (form: CeilingForm) =>
      ask<CeilingForm>('PUT', `${at(slug)}/ceilings/${encodeURIComponent(table)}`, form),
    onSuccess: () => client.invalidateQueries(),
  });
}

export interface QueryForm {
  name: string;
  text: string;
  key: string[];
}

export function useQueries(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'queries'],
    queryFn: () => ask<{ queries: QueryForm[] }>('GET', `${at(slug)}/queries`),
  });
}

/** Tries a query; with `keep` it is a table from then on. */
export function useSaveQuery(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: QueryForm & { keep: boolean }) =>
      ask<{ columns: { name: string; type: string }[] }>('POST', `${at(slug)}/queries`, body),
    onSuccess: (_, { keep }) => (keep ? client.invalidateQueries({ queryKey: ['builder', slug] }) : undefined),
  });
}

export function useForgetQuery(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (name: string) => ask('DELETE', `${at(slug)}/queries/${encodeURIComponent(name)}`),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}

/** Gives the portal a further source, or takes one out. */
export function useFurtherSource(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (order: { add: { name: string; connection: string; schema: string } } | { remove: string }) =>
      'add' in order
        ? ask('POST', `${at(slug)}/sources`, order.add)
        : ask('DELETE', `${at(slug)}/sources/${encodeURIComponent(order.remove)}`),
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
    queryFn: () =>
      ask<{ tables: string[]; chosen: string[] | null }>(
        'GET',
        `${at(slug)}/sources/tables${name === null ? '' : `?name=${encodeURIComponent(name)}`}`,
      ),
  });
}

export function useChooseTables(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string | null; tables: string[] | null }) =>
      ask('PUT', `${at(slug)}/sources/tables`, body),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}

export type SourceChange = CatalogueChange & { uses: string[] };

/** Asks the database what has changed since somebody looked last. */
export function useLookAgain(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => ask<{ first: boolean; changes: SourceChange[] }>('GET', `${at(slug)}/look-again`),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug, 'portal'] }),
  });
}

export function useSeenIt(slug: string) {
  return useMutation({ mutationFn: () => ask('POST', `${at(slug)}/look-again`) });
}
