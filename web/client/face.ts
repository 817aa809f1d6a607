import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { bench } from './bench';

const addressKey = (slug: string) => ['builder', slug, 'address'];

/** The portal's own address, and the one where it is found. */
export function useOwnAddress(slug: string) {
  return useQuery({ queryKey: addressKey(slug), queryFn: () => bench(slug)('GET /address') });
}

export function useSetOwnAddress(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (address: string | null) => bench(slug)('PUT /address', { body: { address } }),
    onSuccess: () => client.invalidateQueries({ queryKey: addressKey(slug) }),
  });
}

/** The own stylesheet of a draft that has one, as it holds below a portal's root; asked for anew with each change. */
export function useDraftStylesheet(slug: string, revision: number, hasOne: boolean) {
  return useQuery({
    queryKey: ['builder', slug, 'stylesheet', revision],
    queryFn: () => bench(slug)('GET /stylesheet'),
    enabled: hasOne,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
}
