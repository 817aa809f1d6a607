import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { LogLine } from '../../server/audit/log-line';
import { workplace } from './bench';

export type { LogLine };

const key = ['builder', 'sign-in-rules'];

/** How those who build sign in. */
export function useBuilderRules() {
  return useQuery({ queryKey: key, queryFn: () => workplace('GET /sign-in/rules') });
}

/** Whether the identity provider's secret is set, and where it is to send browsers back to. */
export function useBuilderProvider() {
  return useQuery({ queryKey: [...key, 'provider'], queryFn: () => workplace('GET /sign-in/provider') });
}

/** Changes something of how those who build sign in, which is then read anew. */
export function useRulesChange<Asked>(change: (asked: Asked) => Promise<unknown>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: () => client.invalidateQueries({ queryKey: key }) });
}

/** What owners changed that holds for every portal, the newest first. */
export function useOwnersLog() {
  return useQuery({ queryKey: ['builder', 'owners-log'], queryFn: () => workplace('GET /colleagues/log') });
}
