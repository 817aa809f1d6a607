import { useQuery } from '@tanstack/react-query';
import type { BenchApi } from '../../server/api';
import { bench } from './bench';

export type AskedThen = BenchApi['GET /who-then']['query'];
export type ToldThen = BenchApi['GET /who-then']['answer'];

/** Who could see a column, a data class or a cell at a moment. */
export function useWhoThen(slug: string, asked: AskedThen | null) {
  return useQuery({
    queryKey: ['builder', slug, 'who-then', asked],
    enabled: asked !== null,
    staleTime: Infinity,
    retry: false,
    queryFn: () => bench(slug)('GET /who-then', { query: asked! }),
  });
}
