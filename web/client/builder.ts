import type { RelationSuggestion, PeopleCount } from '../../server/gate/gate';
import { useEffect } from 'react';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Explanation } from '../../core/access/explain';
import type { Accepted } from '../../core/check/accepted';
import type { RosterFacts } from '../../core/check/roster-findings';
import type { Finding } from '../../core/check/finding';
import type { Condition } from '../../core/condition/tree';
import type { ClassSuggestion } from '../../core/classify/evidence';
import type { ConnectionForm, ConnectionInfo } from '../../server/connections/connections';
import type { TriedConnection } from '../../server/sources/try-connection';
import { whileSame } from './same-subject';
import { ask } from './http';
import type { DemoPeople } from './portal';
import { enqueue, at, portalKey, type PortalState } from './draft';

/** A member by number, `visitor`, or `service.` and a role. */
export type PersonId = number | string;

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

export function definitionAddress(slug: string): string {
  return `/api${at(slug)}/definition`;
}

export function seenByBase(slug: string, member: PersonId): string {
  return `${at(slug)}/as/${member}`;
}
