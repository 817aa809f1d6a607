import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { bench, type BenchApi } from './bench';
import { whileSame } from './same-subject';

export type MailServerForm = BenchApi['PUT /mail-server']['body'];
type OutboxPage = BenchApi['GET /outbox']['answer'];
export type OutboxEntry = OutboxPage['mails'][number];
export type InvitationOrder = BenchApi['POST /invitations']['body'];
export type InvitationOutcome = BenchApi['POST /invitations/count']['answer'];
type PreviewOrder = BenchApi['POST /mails/preview']['body'];

/** Whether the identity provider's secret is set, and where it sends browsers back to. */
export function useProvider(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'provider'],
    queryFn: () => bench(slug)('GET /sign-in/provider'),
  });
}

/** Asks the provider what it can do. */
export function useTryProvider(slug: string) {
  return useMutation({ mutationFn: () => bench(slug)('POST /sign-in/provider/try') });
}

export function useMailServer(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'mail-server'],
    queryFn: () => bench(slug)('GET /mail-server'),
  });
}

/** Waits for what the mail server says. */
export function useTryMailServer(slug: string) {
  return useMutation({ mutationFn: () => bench(slug)('POST /mail-server/try') });
}

/** The mails of the portal, looked at again while some wait. */
export function useOutbox(slug: string, query: BenchApi['GET /outbox']['query']) {
  return useQuery({
    queryKey: ['builder', slug, 'outbox', query],
    queryFn: () => bench(slug)('GET /outbox', { query }),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.counts.waiting || state.data?.counts.sending ? 1500 : 10_000),
  });
}

export function useOutboxMail(slug: string, mail: number | null) {
  return useQuery({
    queryKey: ['builder', slug, 'outbox', 'mail', mail],
    enabled: mail !== null,
    queryFn: () => bench(slug)('GET /outbox/:mail', { params: { mail: mail! } }),
  });
}

/** A mail as a member would get it; nothing where nobody is chosen. */
export function usePreview(slug: string, order: Omit<PreviewOrder, 'member'> & { member: number | null }) {
  const { member, ...rest } = order;
  const queryKey = ['builder', slug, 'preview', order.kind, member, order.words];
  return useQuery({
    queryKey,
    enabled: member !== null,
    queryFn: () => bench(slug)('POST /mails/preview', { body: { ...rest, member: member! } }),
    placeholderData: whileSame(queryKey),
    retry: false,
  });
}

/** How many members an order would write to. */
export function useInvitationCount(slug: string, order: InvitationOrder) {
  return useQuery({
    queryKey: ['builder', slug, 'invitations', order],
    queryFn: () => bench(slug)('POST /invitations/count', { body: order }),
    placeholderData: keepPreviousData,
  });
}
