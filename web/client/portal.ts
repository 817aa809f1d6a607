import type { ListAnswer as GateListAnswer, OpenRecord, ViewRecord } from '../../server/gate/gate';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { whileSame } from './same-subject';
import type { ColumnInfo, PageInfo, SectionInfo } from '../../server/pages/page-info';
import { ask } from './http';

/** `away` names columns whose source can't be reached at the moment. */
export type ListAnswer = GateListAnswer & { away?: string[] };

export type { ColumnInfo, OpenRecord, SectionInfo, ViewRecord };

export interface DemoPeople {
  people: { email: string; name: string; role: string }[];
  password: string;
}

export interface Door {
  name: string;
  colour: string;
  demo: DemoPeople | null;
}

export interface Me {
  portal: { slug: string; name: string; colour: string; timeZone: string };
  member: { name: string; email: string; roles: string[] };
  pages: PageInfo[];
}

/** What a list is asked for; empty parts are left out of the address. */
export interface ListParams {
  search: string;
  filter: string;
  sort: string;
  after: string;
  before: string;
  size?: number;
}

export function listQueryString(params: Partial<ListParams>): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(params))
    if (value !== undefined && value !== '') query.set(name, String(value));
  const text = query.toString();
  return text ? `?${text}` : '';
}

export function useDoor(slug: string) {
  return useQuery({ queryKey: ['door', slug], queryFn: () => ask<Door>('GET', `/portals/${slug}/door`) });
}

/** `base` is the API's address of one person's portal: their own, or as the builder sees it. */
export function useMe(base: string, enabled = true) {
  return useQuery({
    queryKey: [base, 'me'],
    queryFn: () => ask<Me>('GET', `${base}/me`),
    refetchInterval: 20_000,
    enabled,
  });
}

export function useSectionList(base: string, page: string, section: number, params: ListParams) {
  const path = `${base}/pages/${page}/${section}${listQueryString({ ...params })}`;
  // Of the same list only: another page's records never stand under this one's name.
  const queryKey = [base, 'list', page, section, path];
  return useQuery({ queryKey, queryFn: () => ask<ListAnswer>('GET', path), placeholderData: whileSame(queryKey) });
}

export function useTableList(base: string, table: string, params: Partial<ListParams>, enabled: boolean) {
  const path = `${base}/records/${encodeURIComponent(table)}${listQueryString(params)}`;
  return useQuery({ queryKey: [base, 'list', path], queryFn: () => ask<ListAnswer>('GET', path), enabled });
}

export function recordPath(base: string, table: string, id: string): string {
  return `${base}/records/${encodeURIComponent(table)}/${encodeURIComponent(id)}`;
}

export function useRecord(base: string, table: string, id: string, columns: string[]) {
  const path = `${recordPath(base, table, id)}?columns=${encodeURIComponent(columns.join(','))}`;
  return useQuery({
    queryKey: [base, 'record', path],
    queryFn: () => ask<{ record: OpenRecord; columns: ColumnInfo[]; away?: string[] }>('GET', path),
    enabled: columns.length > 0,
  });
}

export type ChangeSet = Record<string, { from: unknown; to: unknown }>;

export function useSaveRecord(base: string, table: string, id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (changes: ChangeSet) =>
      ask<{ record: OpenRecord | null }>('PATCH', recordPath(base, table, id), { changes }),
    onSuccess: () => client.invalidateQueries({ queryKey: [base] }),
  });
}
