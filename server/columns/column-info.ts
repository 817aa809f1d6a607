import {
  viewSql,
  openTable,
  isSortable,
  titleFurther,
  titleOf,
  beyond,
  type PlacedVisit,
  ViewSql,
  type Visit,
} from '../gate/gate';
import { tableRights } from '../../core/access/rights';
import { askable } from '../../core/access/ask';
import { ownValueOf } from '../../core/access/own-facts';
import { printOperand } from '../../core/condition/print';
import { opennessCases, visibleColumns } from '../../core/access/view';
import { columnLabel, columnNotes } from '../../core/definition/definition';
import { printPath, readPath } from '../../core/definition/path';
import type { ColumnKind } from '../../core/table/column-kind';
import { sparedColumns } from '../../core/form/spared';
import { maskAsked, type Mask } from '../../core/mask/mask';
import { crossingOn, crossingsFrom, type Crossing } from '../../core/definition/sources';
import {
  findTable,
  isIdentifier,
  isPathProblem,
  plainLabel,
  resolvePath,
  type ColumnType,
  type Relation,
  type Table,
} from '../../core/table/catalogue';

/** What the browser needs to show, filter and edit one column: nothing of columns that the person doesn't see. */
export interface ColumnInfo {
  path: string;
  label: string;
  type: ColumnType;
  nullable: boolean;
  /** Of those to be filled in a new record: present where one is kept without it. */
  mayStayEmpty?: true;
  maxLength?: number;
  scale?: number;
  choices?: string[];
  /** What builders noted of it: a finer meaning, the currency of money, colours of choices. */
  kind?: ColumnKind;
  currency?: string;
  colours?: Record<string, number>;
  /** True while the source that holds it can't be reached. */
  away?: true;
  /** True when its numbers are read as names, not as amounts. */
  identifies?: true;
  /** What the values that stand for others are called: `{"0": "new"}`. */
  labels?: Record<string, string>;
  /** Present where it leads to a record that people may find by what it is called. */
  relation?: RelationInfo;
  /**
   * What filter and sort go by: the value; the number or text that the mask shows, or only whether that is the same; or
   * nothing.
   */
  asked: 'value' | 'number' | 'text' | 'same' | null;
  sortable: boolean;
  /** What makes records the person's own by it, as a filter writes it, and how that is said: `is you`. */
  own?: { value: string; said: 'you' | 'your own' };
  /** True when this person never sees it whole. */
  veiled: boolean;
}

/** Where a column's value leads. */
export interface RelationInfo {
  name: string;
  table: string;
  /** The path of what the record there is called, where the person sees it. */
  title: string | null;
  /** Paths of what is said after the title. */
  further?: string[];
  /** Whether the value is also the record's id, so that it can be opened. */
  opens: boolean;
}

/** What a person may see and do of a whole table, for a grid over it. */
export interface TableInfo {
  table: string;
  label: string;
  key: string[];
  columns: ColumnInfo[];
  /** Columns that may be filled in a new record; null when none may be made. */
  fills: string[] | null;
  /** Columns that may be changed in some record. */
  changes: string[];
  removes: boolean;
  exports: boolean;
  /** What can be looked at through those relations: `well.code`. */
  through: ColumnInfo[];
}

/** Throws NotFound where the person's view of the table has no row ever. */
export async function tableInfo(visit: PlacedVisit, tableName: string): Promise<TableInfo> {
  const view = viewSql(visit);
  const table = openTable(visit, view, tableName);
  const rights = tableRights(view.view(table));
  const inOrder = (names: ReadonlySet<string>) =>
    table.columns
      .map((column) => column.name)
      .filter((name) => names.has(name))
      .map((name) => printPath([name]));
  const columns = await columnInfos(
    visit,
    tableName,
    visibleColumns(view.view(table)).map((name) => printPath([name])),
  );
  const shown = table.relations.filter((relation) =>
    columns.some((column) => column.path === printPath([relation.column])),
  );
  const crossings = visit.elsewhere
    ? crossingsFrom(visit.definition, tableName).filter((relation) =>
        columns.some((column) => column.path === printPath([relation.column]) && !column.veiled),
      )
    : [];
  const there = (
    await Promise.all(
      crossings.map((relation) => beyond(visit, tableName, { carrier: [relation.column], relation, rest: [] })),
    )
  ).map((each) => (each === 'away' ? null : each));
  const further = await columnInfos(
    visit,
    tableName,
    crossings.flatMap(
      (relation, i) =>
        findTable(there[i]?.catalogue ?? visit.catalogue, relation.table)?.columns.map((column) =>
          printPath([relation.name, column.name]),
        ) ?? [],
    ),
  );
  return {
    table: tableName,
    label: visit.definition.tables[tableName]?.label ?? plainLabel(tableName),
    key: table.key,
    columns: rights.fills ? inNew(visit, view, table, columns) : columns,
    fills: rights.fills && inOrder(rights.fills),
    changes: inOrder(rights.changes),
    removes: rights.removes,
    exports: rights.exports,
    through: [
      ...ownInfos(
        visit,
        view,
        tableName,
        shown.flatMap((relation) =>
          findTable(visit.catalogue, relation.table)!.columns.map((column) => printPath([relation.name, column.name])),
        ),
      ),
      ...further,
    ],
  };
}

/** Columns of a table for a new record: it is said of each whether one is kept without it. */
export function inNew(visit: Visit, view: ViewSql, table: Table, columns: ColumnInfo[]): ColumnInfo[] {
  const spared = sparedColumns(view.view(table), visit.catalogue, visit.definition.tables[table.name]?.rules ?? []);
  return columns.map((info) => (spared.has(readPath(info.path)![0]!) ? { ...info, mayStayEmpty: true } : info));
}

function askedByMask(mask: Mask): ColumnInfo['asked'] {
  const asked = maskAsked(mask);
  return asked && (asked.equalityOnly ? 'same' : asked.type === 'text' ? 'text' : 'number');
}

/**
 * What the person may know of columns, also of those in other sources; those of which they see nothing are left out.
 */
export async function columnInfos(visit: PlacedVisit, tableName: string, paths: string[]): Promise<ColumnInfo[]> {
  const view = viewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  const infos = await Promise.all(
    paths.map(async (text) => {
      const path = visit.elsewhere && table ? readPath(text) : null;
      const crossing = path && crossingOn(visit.definition, visit.catalogue, table!, path);
      if (!crossing) return withCrossing(visit, tableName, ownInfos(visit, view, tableName, [text]));
      const there = await beyond(visit, tableName, crossing);
      if (there === 'away') return [awayColumn(visit, crossing, text)];
      const found = there ? await columnInfos(there, crossing.relation.table, [printPath(crossing.rest)]) : [];
      // What lies in another source is looked up for the records that are shown, so it can't say which those are.
      return found.map((info): ColumnInfo => ({
        ...info,
        path: text,
        label: crossing.rest.length === 1 ? throughLabel(crossing.relation.name, info.label) : info.label,
        asked: null,
        sortable: false,
      }));
    }),
  );
  return infos.flat();
}

/** Columns that lead into another source say so too. */
async function withCrossing(visit: PlacedVisit, tableName: string, infos: ColumnInfo[]): Promise<ColumnInfo[]> {
  if (!visit.elsewhere) return infos;
  return Promise.all(
    infos.map(async (info) => {
      const path = readPath(info.path);
      const relation =
        path?.length === 1 && !info.veiled && !info.relation
          ? crossingsFrom(visit.definition, tableName).find((each) => each.column === path[0])
          : undefined;
      const far = relation && (await beyond(visit, tableName, { carrier: path!, relation, rest: [] }));
      return !far || far === 'away' ? info : { ...info, relation: relationInfo(far, viewSql(far), relation, []) };
    }),
  );
}

/** `before` is the path to the table that the relation starts from. */
export function relationInfo(visit: Visit, view: ViewSql, relation: Relation, before: string[]): RelationInfo {
  const { name, table, targetColumn } = relation;
  const target = findTable(visit.catalogue, table);
  const title = target ? titleOf(visit, view, target) : null;
  const path = (column: string) => printPath([...before, name, column]);
  const further = target && title !== null ? titleFurther(visit, view, target) : [];
  return {
    name,
    table,
    title: title === null ? null : path(title),
    ...(further.length > 0 ? { further: further.map(path) } : {}),
    opens: target?.key.length === 1 && target.key[0] === targetColumn,
  };
}

/** What is asked beside columns of a list so that its relations can be shown by what their records are called. */
export async function titlesBeside(visit: PlacedVisit, tableName: string, paths: string[][]): Promise<string[][]> {
  const table = findTable(visit.catalogue, tableName);
  const leading = paths.filter((path) => {
    const found = table && resolvePath(visit.catalogue, table, path);
    if (!found || isPathProblem(found)) return false;
    const relations = path.length === 1 ? crossingsFrom(visit.definition, tableName) : [];
    return [...found.table.relations, ...relations].some((each) => each.column === found.column.name);
  });
  if (leading.length === 0) return [];
  const infos = await columnInfos(visit, tableName, leading.map(printPath));
  return infos.flatMap(({ relation }) =>
    [relation?.title ?? [], relation?.further ?? []].flat().map((path) => readPath(path)!),
  );
}

/** A column of which nothing is known while its source is away but what the definition calls it. */
function awayColumn({ definition }: Visit, { relation, rest }: Crossing, path: string): ColumnInfo {
  const own = columnLabel(definition, relation.table, rest.at(-1)!, plainLabel);
  return {
    path,
    label: throughLabel(rest.length === 1 ? relation.name : rest.at(-2)!, own),
    type: 'text',
    nullable: true,
    asked: null,
    sortable: false,
    veiled: false,
    away: true,
  };
}

function throughLabel(relation: string, label: string): string {
  return `${plainLabel(relation)} ${label.charAt(0).toLowerCase()}${label.slice(1)}`;
}

function ownInfos(visit: Visit, view: ViewSql, tableName: string, paths: string[]): ColumnInfo[] {
  const table = findTable(visit.catalogue, tableName);
  if (!table) return [];
  return paths.flatMap((text): ColumnInfo[] => {
    const path = readPath(text);
    const found = path && resolvePath(visit.catalogue, table, path);
    if (!path || !found || isPathProblem(found)) return [];
    const { column } = found;
    const cases = opennessCases(view.view(found.table), column.name);
    if (cases.length === 0) return [];
    const asking = resolvePath(view.askCatalogue(), findTable(view.askCatalogue(), tableName)!, path);
    const how = isPathProblem(asking) ? null : askable(view.view(found.table), column.name);
    const label = columnLabel(visit.definition, found.table.name, column.name, plainLabel);
    const relation = found.table.relations.find((each) => each.column === column.name);
    const notes = columnNotes(visit.definition, found.table.name, column.name);
    const isShown = cases.some((each) => each.openness.level === 'shown');
    const own = how?.by === 'value' ? ownValueOf(view.ownFacts(), visit.catalogue, column, relation) : null;
    return [
      {
        path: text,
        label: path.length === 1 ? label : throughLabel(path.at(-2)!, label),
        type: column.type,
        nullable: column.nullable,
        maxLength: column.maxLength,
        scale: column.scale,
        choices: isShown ? column.choices : undefined,
        kind: column.kind,
        currency: column.currency,
        colours: isShown ? notes.colours : undefined,
        labels: isShown ? notes.labels : undefined,
        ...(relation && isShown ? { relation: relationInfo(visit, view, relation, path.slice(0, -1)) } : {}),
        ...(isIdentifier(found.table, column) ? { identifies: true as const } : {}),
        asked: how && (how.by !== 'value' ? askedByMask(how.mask) : column.equalityOnly ? 'same' : 'value'),
        sortable: !isPathProblem(asking) && isSortable(asking.column),
        ...(own
          ? {
              own: {
                value: printOperand({ kind: 'member', fact: own.fact }),
                said: own.isThemselves ? ('you' as const) : ('your own' as const),
              },
            }
          : {}),
        veiled: !isShown,
      },
    ];
  });
}
