import { useQuery } from '@tanstack/react-query';
import { bench } from './bench';

/** The links of a draft's sign-ups, and who asked by them. */
export function useSignUps(slug: string, revision: number) {
  return useQuery({
    queryKey: ['builder', slug, 'sign-ups', revision],
    queryFn: () => bench(slug)('GET /sign-ups'),
    refetchInterval: 60_000,
  });
}
