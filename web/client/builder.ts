import { useEffect } from 'react';
import { keepPreviousData, useMutation, useQuery, useQueryClient, type QueryClient } from '@tanstack/react-query';
import type { Explanation } from '../../core/access/explain';
import type { ConnectionForm, ConnectionInfo } from '../../server/connections/connections';
import type { MemberState } from '../../core/people/member-state';
import type { FoundMember } from '../../server/people/find-members';
import type { MemberSheet, SheetRow } from '../../server/people/member-sheet';
import type { RoleCount } from '../../server/review/review-answers';
import type { TriedConnection } from '../../server/sources/try-connection';
import { bench, benchAddress, whyAt, workplace, type BenchApi, type PersonId } from './bench';
import type { Asked, AskOne } from './http';
import { whileSame } from './same-subject';
import { enqueue, isSaving, portalKey, type PortalState } from './draft';

export type { MemberSheet, SheetRow };
export type { ConnectionForm, ConnectionInfo, Explanation, FoundMember, PersonId, RoleCount, TriedConnection };

export function useBuilder() {
  return useQuery({ queryKey: ['builder-me'], queryFn: () => workplace('GET /me') });
}

export function usePortals() {
  return useQuery({ queryKey: ['builder', 'portals'], queryFn: () => workplace('GET /portals') });
}

/** What names and values of a table suggest: data classes of its columns, and relations. */
export function useSuggestions(slug: string, table: string) {
  return useQuery({
    queryKey: ['builder', slug, 'suggestions', table],
    queryFn: () => bench(slug)('GET /data/:table/suggestions', { params: { table } }),
    staleTime: 300_000,
  });
}

/** Tries whether columns tell the records of a table or view without a key apart. */
export function tryKey(slug: string, table: string, key: string[]): Promise<void> {
  return bench(slug)('POST /data/:table/key', { params: { table }, body: { key } });
}

/** The databases that builders connected, without their passwords. */
export function useConnections() {
  return useQuery({ queryKey: ['builder', 'connections'], queryFn: () => workplace('GET /connections') });
}

/** Everyone who builds here. */
export function useBuilders() {
  return useQuery({ queryKey: ['builder', 'builders'], queryFn: () => workplace('GET /builders') });
}

/** The schemas of a connected database, asked of it now; of the product's own server when the name is empty. */
export function useSourceSchemas(connection: string) {
  return useQuery({
    queryKey: ['builder', 'schemas', connection],
    queryFn: () =>
      connection === ''
        ? workplace('GET /schemas')
        : workplace('GET /connections/:name/schemas', { params: { name: connection } }),
    retry: false,
  });
}

export function usePortal(slug: string) {
  return useQuery({
    queryKey: portalKey(slug),
    queryFn: (): Promise<PortalState> => bench(slug)('GET '),
    refetchInterval: 10_000,
  });
}

/** Reads the portal anew when somebody else has changed its draft, or published. */
export function useOthersChanges(slug: string, known: Pick<PortalState, 'revision' | 'publishedVersion'>): void {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ['builder-revision', slug],
    queryFn: () => bench(slug)('GET /revision'),
    refetchInterval: 2_000,
  });
  const isNew =
    data !== undefined && (data.revision > known.revision || data.publishedVersion !== known.publishedVersion);
  useEffect(() => {
    if (isNew) void client.invalidateQueries({ queryKey: portalKey(slug) });
    // Also when what was read meanwhile is still behind.
  }, [client, slug, isNew, data, known.revision]);
}

export function useTableCounts(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'counts'],
    queryFn: () => bench(slug)('GET /data'),
    staleTime: 60_000,
  });
}

/** Whom a list of members is about; all who are not gone when nothing is said. */
export interface WhichMembers {
  search?: string;
  roster?: string | null;
  state?: MemberState | null;
  role?: string | null;
}

export function useMembers(slug: string, which: WhichMembers, offset = 0, size = 50) {
  const query = { search: '', roster: null, state: null, role: null, ...which, offset, size };
  return useQuery({
    queryKey: ['builder', slug, 'members', query],
    placeholderData: keepPreviousData,
    queryFn: () => bench(slug)('GET /members', { query }),
  });
}

/** All that is known of a member beside their records. */
export function useMember(slug: string, member: number) {
  return useQuery({
    queryKey: ['builder', slug, 'members', 'one', member],
    queryFn: () => bench(slug)('GET /members/:member', { params: { member } }),
  });
}

export function useFindings(slug: string, revision: number) {
  const queryKey = ['builder', slug, 'findings', revision];
  return useQuery({
    queryKey,
    queryFn: () => bench(slug)('GET /findings'),
    placeholderData: whileSame(queryKey),
  });
}

/** What was turned away at a form. */
export function useTurnedAway(slug: string, form: string) {
  return useQuery({
    queryKey: ['builder', slug, 'turned-away', form],
    queryFn: () => bench(slug)('GET /forms/:form/turned-away', { params: { form } }),
  });
}

export function useVersions(slug: string) {
  return useQuery({ queryKey: ['builder', slug, 'versions'], queryFn: () => bench(slug)('GET /versions') });
}

export function useSeenCount(slug: string, member: PersonId, table: string, revision: number) {
  const queryKey = ['builder', slug, 'seen', member, table, revision];
  return useQuery({
    queryKey,
    queryFn: () => whyAt(slug, member)('GET /table/:table', { params: { table } }),
    enabled: table !== '',
    placeholderData: whileSame(queryKey),
  });
}

export function useWhy(
  slug: string,
  member: PersonId,
  revision: number,
  cell: { table: string; id: string; column: string | null } | null,
) {
  return useQuery({
    queryKey: ['builder', slug, 'why', member, revision, cell],
    enabled: cell !== null,
    queryFn: () => {
      const { table, id, column } = cell!;
      return whyAt(slug, member)('GET /why/:table/:id', { params: { table, id }, query: { column } });
    },
  });
}

export function useConditionCount(
  slug: string,
  table: string,
  text: string,
  member: PersonId | null,
  revision: number,
) {
  const queryKey = ['builder', slug, 'condition', table, text, member, revision];
  return useQuery({
    queryKey,
    enabled: text.trim() !== '',
    placeholderData: whileSame(queryKey),
    retry: false,
    queryFn: () => bench(slug)('POST /condition', { body: { table, text, member, role: null, all: false } }),
  });
}

/** How many rows a condition lets through for each member of a role. */
export function useRoleCount(
  slug: string,
  table: string,
  text: string,
  role: string | null,
  all: boolean,
  revision: number,
) {
  const queryKey = ['builder', slug, 'condition-role', table, text, role, all, revision];
  return useQuery({
    queryKey,
    enabled: text.trim() !== '' && role !== null,
    placeholderData: whileSame(queryKey),
    retry: false,
    queryFn: () => bench(slug)('POST /condition', { body: { table, text, member: null, role, all } }),
  });
}

/** Asks once the edits before it are saved; is done when the portal itself is read anew, the rest of it follows. */
export function useBenchAction<K extends keyof BenchApi & string>(slug: string, key: K) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (asked: Asked<BenchApi[K]>): Promise<BenchApi[K]['answer']> =>
      enqueue(slug, () => (bench(slug) as AskOne<BenchApi, K>)(key, asked)),
    onSuccess: () => allAnew(client, slug),
  });
}

function allAnew(client: QueryClient, slug: string) {
  void client.invalidateQueries({ queryKey: ['builder', slug] });
  return client.refetchQueries({ queryKey: portalKey(slug) }, { cancelRefetch: false });
}

/** Publishes the draft that is looked at, with one's own edits that are still on their way. */
export function usePublish(slug: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: ({ revision, ...words }: { revision: number; note: string; despite: string }) => {
      const waits = isSaving(slug);
      return enqueue(slug, () => {
        const newest = client.getQueryData<PortalState>(portalKey(slug))!.revision;
        return bench(slug)('POST /versions', { body: { revision: waits ? newest : revision, ...words } });
      });
    },
    onSuccess: () => allAnew(client, slug),
  });
}

export function definitionAddress(slug: string): string {
  return benchAddress(slug)('GET /definition');
}
