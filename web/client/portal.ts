export type { PageIcon } from '../../core/definition/page-icons';
import type { DoorApi, LinkApi, RecordApi, SignUpApi } from '../../server/api';
import type { OpenRecord, ViewRecord } from '../../server/gate/gate';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { whileSame } from './same-subject';
import type { Me } from '../../server/pages/page-endpoints';
import type { DemoPeople } from '../../server/sign-in/demo-people';
import type { ColumnInfo } from '../../server/columns/column-info';
import { addressAt, askAt } from './http';

export type ListAnswer = RecordApi['GET /pages/:page/:section']['answer'];

/** Somebody who is in, or one step before it. */
export type CameIn = DoorApi['POST /sign-in']['answer'];

/** What stands at a door, before anybody has signed in. */
export type Door = DoorApi['GET /door']['answer'];

export type { ColumnInfo, DemoPeople, Me, OpenRecord, ViewRecord };

/** The API's address of a portal's door and of what is behind it; the bench's is `benchDoor`. */
export const portalDoor = (slug: string): string => `/portals/${slug}`;
export const benchDoor = '/builder';
/** What is open of a portal without signing in. */
export const publicPart = (slug: string): string => `${portalDoor(slug)}/public`;

/** What is asked at a door. */
export const doorAt = (base: string) => askAt<DoorApi>(base);

/** What the links of mails lead to. */
export const linksAt = (slug: string) => askAt<LinkApi>(portalDoor(slug));

/** What is asked by those who are new. */
export const signUps = askAt<SignUpApi>('/portals');

/** `base` is the API's address of one person's portal: their own, or as the builder sees it, or of all records. */
export const records = (base: string) => askAt<RecordApi>(base);

/** The same, as addresses. */
export const recordAddress = (base: string) => addressAt<RecordApi>(base);

/** What a list is asked for; empty parts are left out of the address. */
export interface ListParams {
  view: string;
  columns: string;
  search: string;
  filter: string;
  sort: string;
  after: string;
  before: string;
  size?: number;
}

export function useDoor(base: string) {
  return useQuery({ queryKey: ['door', base], queryFn: () => doorAt(base)('GET /door') });
}

export function useMe(base: string, enabled = true) {
  return useQuery({
    queryKey: [base, 'me'],
    queryFn: () => records(base)('GET /me'),
    refetchInterval: 20_000,
    enabled,
  });
}

export function useSectionList(
  base: string,
  page: string,
  section: string,
  params: ListParams & { widths?: string; chart?: string },
  enabled = true,
) {
  // How wide the columns stand is nobody's question, and what is drawn of it is another.
  const { widths: _w, chart: _c, ...query } = params;
  const asked = { params: { page, section }, query };
  // Of the same list only: another page's records never stand under this one's name.
  const queryKey = [base, 'list', page, section, asked];
  return useQuery({
    queryKey,
    queryFn: () => records(base)('GET /pages/:page/:section', asked),
    placeholderData: whileSame(queryKey),
    enabled,
  });
}

export function useTableList(base: string, table: string, params: Partial<Omit<ListParams, 'view'>>, enabled: boolean) {
  const asked = { params: { table }, query: params };
  return useQuery({
    queryKey: [base, 'list', asked],
    queryFn: () => records(base)('GET /records/:table', asked),
    enabled,
  });
}

export function useRecord(base: string, table: string, id: string, columns: string[]) {
  const asked = { params: { table, id }, query: { columns: columns.join(',') } };
  return useQuery({
    queryKey: [base, 'record', asked],
    queryFn: () => records(base)('GET /records/:table/:id', asked),
    enabled: columns.length > 0,
  });
}

/** The paths that are asked of records so that columns can be shown: their own, and what relations are called by. */
export const pathsOf = (columns: readonly Pick<ColumnInfo, 'path' | 'relation'>[]): string[] => [
  ...new Set(columns.flatMap(({ path, relation }) => [path, relation?.title ?? [], relation?.further ?? []].flat())),
];

export type ChangeSet = Record<string, { from: unknown; to: unknown }>;

export function useSaveRecord(base: string, table: string, id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (changes: ChangeSet) =>
      records(base)('PATCH /records/:table/:id', { params: { table, id }, body: { changes } }),
    onSuccess: () => {
      // It is kept now; what follows from it is asked for again, and nobody waits for that but for who they are: a
      // session that had ended stands again before anything typed counts as kept.
      void client.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] === base && queryKey[1] !== 'me' });
      return client.invalidateQueries({ queryKey: [base, 'me'] });
    },
  });
}

/** Puts what a record has become where a section lists it, until the list is there again. */
export function useChangedInList(base: string, page: string, section: string) {
  const client = useQueryClient();
  return (id: string, now: OpenRecord) =>
    client.setQueriesData<ListAnswer>({ queryKey: [base, 'list', page, section] }, (list) =>
      list?.records
        ? { ...list, records: list.records.map((record) => (record.id === id ? become(record, now) : record)) }
        : list,
    );
}

function become(record: ListAnswer['records'][number], now: OpenRecord): ListAnswer['records'][number] {
  const seen = Object.keys(record.values).filter((path) => path in now.values);
  return {
    ...record,
    values: { ...record.values, ...Object.fromEntries(seen.map((path) => [path, now.values[path]!])) },
  };
}

/** The page that a person comes to: the first that stands among theirs. */
export const homeOf = (pages: Me['pages']) => pages.find(({ listed }) => listed) ?? pages[0];
