import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { StewardApi } from '../../server/api';
import type { HandOverInfo } from '../../server/stewards/hand-overs';
import type { RequestInfo } from '../../server/sign-up/request-endpoints';
import { askAt } from './http';
import { records, type ListParams } from './portal';
import { whileSame } from './same-subject';

export type { HandOverInfo, RequestInfo };

/** What is asked by those who look after people and hand over: at their own portal, or as the builder sees it. */
export const stewards = (base: string) => askAt<StewardApi>(base);

export type LookedAfterList = StewardApi['GET /people/:steward']['answer'];

/** Those who are looked after, page by page, each with how they stand. */
export function useLookedAfter(base: string, steward: string, params: ListParams) {
  const asked = { params: { steward }, query: params };
  const queryKey = [base, 'list', 'people', steward, asked];
  return useQuery({
    queryKey,
    queryFn: () => stewards(base)('GET /people/:steward', asked),
    placeholderData: whileSame(queryKey),
  });
}

/** Something that is done for one of them; what is shown of all is asked anew after it. */
export function useStewardAct<T, Given>(
  base: string,
  act: (ask: ReturnType<typeof stewards>, given: Given) => Promise<T>,
) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (given: Given) => act(stewards(base), given),
    onSuccess: () => client.invalidateQueries({ queryKey: [base] }),
  });
}

/** Adds a record to a table that people are drawn from. */
export function useAddRecord(base: string, table: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (values: Record<string, unknown>) =>
      records(base)('POST /records/:table', { params: { table }, body: { values } }),
    onSuccess: () => client.invalidateQueries({ queryKey: [base] }),
  });
}

export function useHandOverPeople(base: string, steward: string, search: string) {
  const asked = { params: { steward }, query: { search } };
  return useQuery({
    queryKey: [base, 'hand-over', steward, 'people', search],
    queryFn: async () => (await stewards(base)('GET /hand-over/:steward/people', asked)).people,
  });
}

export function useHandOverCounts(base: string, steward: string, from: string | null) {
  return useQuery({
    queryKey: [base, 'hand-over', steward, 'counts', from],
    enabled: from !== null,
    queryFn: async () =>
      (await stewards(base)('GET /hand-over/:steward/counts', { params: { steward }, query: { from: from! } })).tables,
  });
}

export function useHandOvers(base: string, steward: string) {
  return useQuery({
    queryKey: [base, 'hand-over', steward, 'done'],
    queryFn: async () => (await stewards(base)('GET /hand-over/:steward', { params: { steward } })).done,
  });
}

/** Those who ask to come in and wait for this person to agree. */
export function useRequests(base: string) {
  return useQuery({
    queryKey: [base, 'requests'],
    queryFn: async () => (await stewards(base)('GET /requests')).requests,
    refetchInterval: 60_000,
  });
}

export function useAnswerRequest(base: string) {
  return useStewardAct(base, (ask, { id, agree }: { id: number; agree: boolean }) =>
    ask(agree ? 'POST /requests/:request/agree' : 'POST /requests/:request/refuse', { params: { request: id } }),
  );
}
