import {
  MutationCache,
  QueryCache,
  QueryClient,
  type InvalidateOptions,
  type InvalidateQueryFilters,
} from '@tanstack/react-query';
import { ServerProblem } from './http';

/**
 * What no longer holds is never the answer: a first answer that is still under way would else be kept as the new one,
 * since the package asks again only where it has one already.
 */
class Client extends QueryClient {
  override invalidateQueries(filters?: InvalidateQueryFilters, options?: InvalidateOptions): Promise<void> {
    void this.cancelQueries(filters as Parameters<QueryClient['cancelQueries']>[0]);
    return super.invalidateQueries(filters as Parameters<QueryClient['invalidateQueries']>[0], options);
  }
}

/** Faults that a person must see are not tried again behind their back; a lost connection is, twice. */
export function makeQueryClient(): QueryClient {
  // Where a session has ended, who is signed in is asked again, which leads to the sign-in.
  const askWho = (error: Error) => {
    if (error instanceof ServerProblem && error.status === 401)
      void client.invalidateQueries({ predicate: (query) => isWho(query.queryKey) });
  };
  const client: QueryClient = new Client({
    queryCache: new QueryCache({
      onError: (error, query) => {
        if (!isWho(query.queryKey)) askWho(error);
      },
    }),
    mutationCache: new MutationCache({ onError: askWho }),
    defaultOptions: {
      queries: {
        staleTime: 5_000,
        retry: (count, error) => count < 2 && error instanceof ServerProblem && error.status === 0,
        refetchOnWindowFocus: true,
      },
    },
  });
  return client;
}

function isWho(key: readonly unknown[]): boolean {
  return key[0] === 'builder-me' || key[1] === 'me';
}
