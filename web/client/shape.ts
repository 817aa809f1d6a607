import type { TypeChange } from '../../server/gate/gate';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { bench, type BenchApi } from './bench';
import type { Asked, AskOne } from './http';

export type { TypeChange };

/** What was deleted in the last day, and which indexes would help. */
export function useShape(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'shape'],
    queryFn: () => bench(slug)('GET /shape'),
    staleTime: 30_000,
  });
}

export function useUses(slug: string, table: string, column?: string) {
  return useQuery({
    queryKey: ['builder', slug, 'uses', table, column ?? null],
    queryFn: () => bench(slug)('GET /shape/uses', { query: { table, column } }),
  });
}

type Shaping = Extract<keyof BenchApi, `${'POST' | 'DELETE'} /shape/${string}`>;

/** Shapes something; everything of the portal is read anew then. */
export function useShaping<K extends Shaping>(slug: string, key: K) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: Asked<BenchApi[K]>) => (bench(slug) as AskOne<BenchApi, K>)(key, asked),
    onSuccess: () => client.invalidateQueries({ queryKey: ['builder', slug] }),
  });
}
