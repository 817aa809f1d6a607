import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { bench, type BenchApi } from './bench';
import { enqueue } from './draft';

export type CallEntry = BenchApi['GET /calls']['answer']['calls'][number];

/** The calls of the portal, looked at again while some wait. */
export function useCalls(slug: string, query: BenchApi['GET /calls']['query']) {
  return useQuery({
    queryKey: ['builder', slug, 'calls', query],
    queryFn: () => bench(slug)('GET /calls', { query }),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.counts.waiting || state.data?.counts.sending ? 1500 : 10_000),
  });
}

export function useCall(slug: string, call: number) {
  return useQuery({
    queryKey: ['builder', slug, 'calls', 'one', call],
    queryFn: () => bench(slug)('GET /calls/:call', { params: { call } }),
  });
}

/** Calls an address of the draft with a sample, once one's own edits are kept, and waits for its answer. */
export function useTryAddress(slug: string, address: string) {
  return useMutation({
    mutationFn: (data: Record<string, unknown>) =>
      enqueue(slug, () => bench(slug)('POST /addresses/:address/try', { params: { address }, body: { data } })),
  });
}

/** Makes another secret; it is told this once. */
export function useNewSecret(slug: string, address: string) {
  return useMutation({
    mutationFn: () => enqueue(slug, () => bench(slug)('POST /addresses/:address/secret', { params: { address } })),
  });
}
