import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { bench, type BenchApi } from './bench';

export type KeyInfo = BenchApi['GET /keys']['answer']['keys'][number];
export type KeyChosen = BenchApi['POST /keys']['body'];

const keysOf = (slug: string) => ['builder', slug, 'keys'];

/** The keys of the portal's services. */
export function useKeys(slug: string) {
  return useQuery({ queryKey: keysOf(slug), queryFn: () => bench(slug)('GET /keys'), refetchInterval: 30_000 });
}

/** Makes, replaces and ends keys. */
export function useKeyWork(slug: string) {
  const client = useQueryClient();
  const ask = bench(slug);
  const done = { onSuccess: () => client.invalidateQueries({ queryKey: keysOf(slug) }) };
  return {
    make: useMutation({ mutationFn: (body: KeyChosen) => ask('POST /keys', { body }), ...done }),
    replace: useMutation({
      mutationFn: ({ key, hours }: { key: number; hours: number }) =>
        ask('POST /keys/:key/replacement', { params: { key }, body: { hours } }),
      ...done,
    }),
    end: useMutation({ mutationFn: (key: number) => ask('DELETE /keys/:key', { params: { key } }), ...done }),
  };
}
