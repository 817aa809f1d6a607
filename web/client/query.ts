import { QueryClient } from '@tanstack/react-query';
import { ServerProblem } from './http';

/** Faults that a person must see are not tried again behind their back; a lost connection is, twice. */
export function makeQueryClient(): QueryClient {
  return new QueryClient({
    defaultOptions: {
      queries: {
        staleTime: 5_000,
        retry: (count, error) => count < 2 && error instanceof ServerProblem && error.status === 0,
        refetchOnWindowFocus: true,
      },
    },
  });
}
