import { useCallback, useEffect, useSyncExternalStore } from 'react';
import { keepPreviousData, useMutation, useQuery, useQueryClient, type QueryClient } from '@tanstack/react-query';
import jsonPatch from 'fast-json-patch';
import type { Explanation } from '../../core/access/explain';
import type { Accepted } from '../../core/check/accepted';
import type { RosterFacts } from '../../core/check/roster-findings';
import type { Finding } from '../../core/check/finding';
import type { Condition } from '../../core/condition/tree';
import type { PortalDefinition } from '../../core/definition/definition';
import type { ClassSuggestion } from '../../core/classify/evidence';
import type { Catalogue } from '../../core/table/catalogue';
import type { RelationSuggestion } from '../../server/gate/facts/suggest-relations';
import type { PeopleCount } from '../../server/gate/review/count-people';
import type { ConnectionForm, ConnectionInfo } from '../../server/connections/connections';
import type { TriedConnection } from '../../server/sources/try-connection';
import { whileSame } from './same-subject';
import { ask, problemText, ServerProblem } from './http';
import type { DemoPeople } from './portal';

/** A member by number, `visitor`, or `service.` and a role. */
export type PersonId = number | string;

export interface Draft {
  revision: number;
  draft: PortalDefinition;
  undo: string | null;
  redo: string | null;
}

export interface PortalState extends Draft {
  catalogue: Catalogue;
  /** Sources that can't be read at the moment. */
  away: { name: string; reason: string }[];
  publishedVersion: number | null;
  newestVersion: number | null;
  publishedAt: string | null;
  /** Edits since the newest version. */
  changes: number;
}

export interface MemberLine {
  id: number;
  name: string;
  email: string;
  active: boolean;
  canSignIn: boolean;
  rosters: string[];
  /** What the draft makes of them. */
  roles: string[];
}

export interface VersionLine {
  number: number;
  note: string;
  publishedBy: string;
  publishedAt: string;
  /** Why it can't be published again; null when it can. */
  outdated: string | null;
}

export type { ConnectionForm, ConnectionInfo, DemoPeople, Explanation, Finding, RosterFacts, TriedConnection };

const at = (slug: string) => `/builder/portals/${slug}`;
export const portalKey = (slug: string) => ['builder', slug, 'portal'];

export function useBuilderDoor() {
  return useQuery({
    queryKey: ['builder-door'],
    queryFn: () => ask<{ demo: DemoPeople | null }>('GET', '/builder/door'),
  });
}

export function useBuilder() {
  return useQuery({
    queryKey: ['builder-me'],
    queryFn: () => ask<{ name: string; email: string }>('GET', '/builder/me'),
  });
}

export function usePortals() {
  return useQuery({
    queryKey: ['builder', 'portals'],
    queryFn: () =>
      ask<{ portals: { slug: string; name: string; publishedVersion: number | null }[] }>('GET', '/builder/portals'),
  });
}

/** What names and values of a table suggest: data classes of its columns, and relations. */
export function useSuggestions(slug: string, table: string) {
  return useQuery({
    queryKey: ['builder', slug, 'suggestions', table],
    queryFn: () =>
      ask<{ suggestions: ClassSuggestion[]; relations: RelationSuggestion[] }>(
        'GET',
        `${at(slug)}/data/${encodeURIComponent(table)}/suggestions`,
      ),
    staleTime: 300_000,
  });
}

/** Tries whether columns tell the records of a table or view without a key apart. */
export function tryKey(slug: string, table: string, key: string[]): Promise<void> {
  return ask('POST', `${at(slug)}/data/${encodeURIComponent(table)}/key`, { key });
}

/** The databases that builders connected, without their passwords. */
export function useConnections() {
  return useQuery({
    queryKey: ['builder', 'connections'],
    queryFn: () => ask<{ connections: ConnectionInfo[] }>('GET', '/builder/connections'),
  });
}

/** Everyone who builds here. */
export function useBuilders() {
  return useQuery({
    queryKey: ['builder', 'builders'],
    queryFn: () => ask<{ builders: { id: number; name: string; email: string }[] }>('GET', '/builder/builders'),
  });
}

/** The schemas of a connected database, asked of it now; of the product's own server when the name is empty. */
export function useSourceSchemas(connection: string) {
  return useQuery({
    queryKey: ['builder', 'schemas', connection],
    queryFn: () =>
      ask<{ schemas: string[] }>(
        'GET',
        connection === '' ? '/builder/schemas' : `/builder/connections/${encodeURIComponent(connection)}/schemas`,
      ),
    retry: false,
  });
}

export function usePortal(slug: string) {
  return useQuery({
    queryKey: portalKey(slug),
    queryFn: () => ask<PortalState>('GET', at(slug)),
    refetchInterval: 10_000,
  });
}

/** Reads the portal anew when somebody else has changed its draft, or published. */
export function useOthersChanges(slug: string, known: Pick<PortalState, 'revision' | 'publishedVersion'>): void {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ['builder-revision', slug],
    queryFn: () => ask<Pick<PortalState, 'revision' | 'publishedVersion'>>('GET', `${at(slug)}/revision`),
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
    queryFn: () => ask<{ tables: { name: string; rows: number }[] }>('GET', `${at(slug)}/data`),
    staleTime: 60_000,
  });
}

export function useMembers(slug: string, search: string, roster: string | null, offset = 0, size = 50) {
  const query = new URLSearchParams({
    search,
    offset: String(offset),
    size: String(size),
    ...(roster ? { roster } : {}),
  });
  return useQuery({
    queryKey: ['builder', slug, 'members', query.toString()],
    placeholderData: keepPreviousData,
    queryFn: () => ask<{ total: number; members: MemberLine[] }>('GET', `${at(slug)}/members?${query.toString()}`),
  });
}

export function useFindings(slug: string, revision: number) {
  const queryKey = ['builder', slug, 'findings', revision];
  return useQuery({
    queryKey,
    queryFn: () =>
      ask<{ findings: Finding[]; accepted: Accepted[]; rosters: RosterFacts[] }>('GET', `${at(slug)}/findings`),
    placeholderData: whileSame(queryKey),
  });
}

export function useVersions(slug: string) {
  return useQuery({
    queryKey: ['builder', slug, 'versions'],
    queryFn: () => ask<{ versions: VersionLine[]; publishedVersion: number | null }>('GET', `${at(slug)}/versions`),
  });
}

export function useSeenCount(slug: string, member: PersonId, table: string, revision: number) {
  const queryKey = ['builder', slug, 'seen', member, table, revision];
  return useQuery({
    queryKey,
    queryFn: () =>
      ask<{ seen: number; total: number }>('GET', `${at(slug)}/as/${member}/table/${encodeURIComponent(table)}`),
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
    queryFn: () =>
      ask<Explanation>(
        'GET',
        `${at(slug)}/as/${member}/why/${encodeURIComponent(cell!.table)}/${encodeURIComponent(cell!.id)}` +
          `${cell!.column === null ? '' : `?column=${encodeURIComponent(cell!.column)}`}`,
      ),
  });
}

export interface ConditionAnswer {
  condition: Condition;
  passing: number | null;
  total: number;
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
    queryFn: () => ask<ConditionAnswer>('POST', `${at(slug)}/condition`, { table, text, member }),
  });
}

/** Of a large role some members are counted first; `inRole` says how many there are. */
export type RoleCount = PeopleCount & { inRole: number };

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
    queryFn: () =>
      ask<{ role: RoleCount | null }>('POST', `${at(slug)}/condition`, { table, text, member: null, role, all }),
  });
}

/** Edits wait for each other, so that each is made on what the one before it left. */
const queues = new Map<string, Promise<unknown>>();

export type EditDraft = (label: string, recipe: (draft: PortalDefinition) => void) => Promise<string | null>;

/**
 * Edits the draft: the recipe changes a copy, the difference goes to the server as a patch. Gives null, or the sentence
 * that says why it was refused; the draft is then as the server has it.
 */
export function useEditDraft(slug: string): EditDraft {
  const client = useQueryClient();
  return useCallback(
    (label, recipe) =>
      enqueue(slug, async () => {
        const before = client.getQueryData<PortalState>(portalKey(slug));
        if (!before) return 'The draft is not loaded yet. Try again.';
        const after = structuredClone(before.draft);
        recipe(after);
        const patch = jsonPatch.compare(before.draft, after);
        if (patch.length === 0) return null;
        // What was asked before this edit must not come back over it.
        await client.cancelQueries({ queryKey: portalKey(slug) });
        client.setQueryData<PortalState>(portalKey(slug), { ...before, draft: after });
        try {
          take(
            client,
            slug,
            await ask<Draft>('PATCH', `${at(slug)}/draft`, { revision: before.revision, label, patch }),
          );
          return null;
        } catch (error) {
          client.setQueryData<PortalState>(portalKey(slug), before);
          await client.invalidateQueries({ queryKey: portalKey(slug) });
          return draftFault(error);
        }
      }),
    [client, slug],
  );
}

function draftFault(error: unknown): string {
  const faults =
    error instanceof ServerProblem ? (error.body.faults as { place: string; reason: string }[] | undefined) : undefined;
  return faults?.length ? faults.map((fault) => `${fault.place}: ${fault.reason}`).join('; ') : problemText(error);
}

export function useStepDraft(slug: string) {
  const client = useQueryClient();
  return useCallback(
    (step: 'undo' | 'redo') =>
      enqueue(slug, async () => {
        try {
          take(client, slug, await ask<Draft>('POST', `${at(slug)}/draft/${step}`));
          return null;
        } catch (error) {
          return problemText(error);
        }
      }),
    [client, slug],
  );
}

export function useApplyDefinition(slug: string) {
  const client = useQueryClient();
  return useMutation({
    // With the revision that was looked at, so that another builder's change is not written over.
    mutationFn: ({ definition, revision }: { definition: unknown; revision: number }) =>
      ask<Draft>('PUT', `${at(slug)}/definition?revision=${revision}`, definition),
    onSuccess: (draft) => take(client, slug, draft),
  });
}

function take(client: QueryClient, slug: string, draft: Draft): void {
  client.setQueryData<PortalState>(portalKey(slug), (state) => state && { ...state, ...draft, changes: state.changes });
  void client.invalidateQueries({ queryKey: portalKey(slug) });
  void client.invalidateQueries({
    predicate: (query) =>
      typeof query.queryKey[0] === 'string' &&
      (query.queryKey[0].startsWith(`${at(slug)}/as/`) ||
        (query.queryKey[0] === allRecords(slug) && query.queryKey[1] === 'table')),
  });
}

function enqueue<T>(slug: string, work: () => Promise<T>): Promise<T> {
  const turn = (queues.get(slug) ?? Promise.resolve()).then(work, work);
  const done = turn.catch(() => undefined).then(() => count(slug, -1));
  queues.set(slug, done);
  count(slug, 1);
  return turn;
}

const waiting = new Map<string, number>();
const watchers = new Set<() => void>();

function count(slug: string, by: number): void {
  waiting.set(slug, (waiting.get(slug) ?? 0) + by);
  for (const watcher of watchers) watcher();
}

function watch(watcher: () => void): () => void {
  watchers.add(watcher);
  return () => watchers.delete(watcher);
}

/**
 * Whether edits of the portal are on their way to the server; while they are, the browser asks before it leaves the
 * page.
 */
export function useSaving(slug: string): boolean {
  const saving = useSyncExternalStore(watch, () => (waiting.get(slug) ?? 0) > 0);
  useEffect(() => {
    if (!saving) return;
    const guard = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', guard);
    return () => window.removeEventListener('beforeunload', guard);
  }, [saving]);
  return saving;
}

/** Asks once the edits before it are saved; is done when the portal itself is read anew, the rest of it follows. */
export function useBuilderAction<T>(slug: string, method: 'POST' | 'PUT', path: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body?: unknown) => enqueue(slug, () => ask<T>(method, `${at(slug)}${path}`, body)),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ['builder', slug] });
      return client.refetchQueries({ queryKey: portalKey(slug) }, { cancelRefetch: false });
    },
  });
}

/** The API's address of all records, under the builder's own grant. */
export function allRecords(slug: string): string {
  return `${at(slug)}/all`;
}

export function definitionAddress(slug: string): string {
  return `/api${at(slug)}/definition`;
}

export function seenByBase(slug: string, member: PersonId): string {
  return `${at(slug)}/as/${member}`;
}
