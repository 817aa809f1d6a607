import type { Condition } from '../../core/condition/tree';
import type { FigureMeasure } from '../../core/definition/figure-measures';
import type { RowFilter } from '../../core/definition/definition';
import { readPath } from '../../core/definition/path';
import { findTable } from '../../core/table/catalogue';
import { columnInfos, titlesBeside, type ColumnInfo } from '../columns/column-info';
import { at, NotFound, viewSql, type FigureQuestion, type PlacedVisit } from '../gate/gate';
import { isSourceAway } from '../sources/connection-problem';
import { askedFilter } from './record-question';

/** What a section reckons with. */
interface Numbers {
  table: string;
  measure: FigureMeasure;
  column?: string;
  smallestGroup?: number;
}

/** How the list that a section goes with is narrowed now. */
export interface Narrowed {
  /** The tab that it stands in, where it has some. */
  view: string;
  filter: string;
  search: string;
}

/** The list that a section goes with, as far as numbers need it. */
interface Followed {
  where: RowFilter;
  columns: string[];
  group?: string;
  searched?: string[];
}

/** Columns that a section reckons with, as this person sees them; null where they see nothing of one. */
export async function numberColumns(
  asked: PlacedVisit,
  table: string,
  paths: readonly (string | undefined)[],
): Promise<{ columns: (ColumnInfo | null)[]; open: boolean; away?: true }> {
  const nothing = paths.map(() => null);
  try {
    const visit = await at(asked, table);
    const known = findTable(visit.catalogue, table);
    if (!known || viewSql(visit).view(known).lenses.length === 0) return { columns: nothing, open: false };
    const columns = await Promise.all(
      paths.map(async (path) => (path === undefined ? null : ((await columnInfos(visit, table, [path]))[0] ?? null))),
    );
    return { columns, open: columns.every((column, i) => column !== null || paths[i] === undefined) };
  } catch (error) {
    if (!isSourceAway(error)) throw error;
    return { columns: nothing, open: true, away: true };
  }
}

/** The visit to the table of a section's numbers; NotFound where nothing of it is seen. */
export async function numbersVisit(asked: PlacedVisit, table: string): Promise<PlacedVisit> {
  const visit = await at(asked, table);
  const known = findTable(visit.catalogue, table);
  if (!known || viewSql(visit).view(known).lenses.length === 0) throw new NotFound('figure');
  return visit;
}

/** The question of a section's numbers, over the records that the list holds which it goes with. */
export async function numbersQuestion(
  visit: PlacedVisit,
  { table: name, measure, column, smallestGroup }: Numbers,
  where: RowFilter,
  followed: Followed | null,
  narrowed: Narrowed,
): Promise<Omit<FigureQuestion, 'by'>> {
  const table = findTable(visit.catalogue, name)!;
  const path = column === undefined ? undefined : pathOf(column);
  const filters = [where, followed?.where ?? 'every row'].filter((each): each is Condition => each !== 'every row');
  return {
    measures: [{ what: measure, ...(path ? { path } : {}) }],
    where: [...filters, ...(followed ? askedFilter(viewSql(visit), table, narrowed.filter) : [])],
    ...(followed && narrowed.search !== ''
      ? { search: { text: narrowed.search, columns: await searchedIn(visit, name, followed) } }
      : {}),
    ...(smallestGroup === undefined ? {} : { smallestGroup }),
  };
}

/** What a list looks in: its columns, and what the records are called that they lead to. */
export async function searchedIn(
  visit: PlacedVisit,
  table: string,
  { columns, group, searched }: Pick<Followed, 'columns' | 'group' | 'searched'>,
): Promise<string[][]> {
  const shown = [...new Set(searched ?? [...columns, ...(group === undefined ? [] : [group])])].map(pathOf);
  return [...shown, ...(await titlesBeside(visit, table, shown))];
}

export const pathOf = (text: string): string[] => readPath(text) ?? [text];
