import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { bench, benchAddress, type BenchApi } from './bench';

export type LogAsked = Required<BenchApi['GET /log/file']['query']>;

/** Lines of the portal's audit log, and those before them when they are asked for. */
export function useLog(slug: string, asked: LogAsked) {
  return useInfiniteQuery({
    queryKey: ['builder', slug, 'log', asked],
    queryFn: ({ pageParam: before }) =>
      bench(slug)('GET /log', { query: { ...given(asked), ...(before === null ? {} : { before }) } }),
    initialPageParam: null as number | null,
    getNextPageParam: ({ before }) => before ?? undefined,
    placeholderData: keepPreviousData,
  });
}

/** What is not asked for is left out of the address. */
const given = (asked: LogAsked) =>
  Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== '' && value !== null)) as Partial<LogAsked>;

export const logFile = (slug: string, asked: LogAsked) => benchAddress(slug)('GET /log/file', { query: given(asked) });

/** Looks at the whole log; only when it is asked for. */
export function useProof(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'log', 'proof'],
    queryFn: () => bench(slug)('GET /log/proof'),
    enabled: false,
    gcTime: 0,
  });
}
