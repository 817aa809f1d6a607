import { viewSql, ViewSql } from './view-sql';
import Big from 'big.js';
import { tableRights } from '../../../core/access/rights';
import { exportView, opennessCases } from '../../../core/access/view';
import { isKnownEnd } from '../../../core/access/ask';
import { collationKey, isComparableCollation } from '../../../core/condition/collation';
import { kindOf } from '../../../core/condition/operand-kind';
import { compileCondition } from '../../../core/condition/compile';
import type { Condition, Operand } from '../../../core/condition/tree';
import { and, joined, sql } from '../../../core/sql/sql';
import { printPath } from '../../../core/definition/path';
import { canJoin, crossingOn, sourceName, type Crossing } from '../../../core/definition/sources';
import {
  findColumn,
  findTable,
  isPathProblem,
  resolvePath,
  type Catalogue,
  type Column,
  type Relation,
} from '../../../core/table/catalogue';
import { isUuid, type Value } from '../../../core/table/value';
import { isSourceAway } from '../../sources/connection-problem';
import type { Runner } from '../../sources/source';
import { Cells, selectList } from './cells';
import type { ViewRecord } from './view-record';
import { decode } from './decode';
import { rawRecord, Tables } from './tables';
import type { PlacedVisit, Visit } from './visit';

/** The same visit at the source that holds a table. Throws when that source can't be opened. */
export async function at<V extends PlacedVisit>(visit: V, table: string): Promise<V> {
  if (!visit.elsewhere) return visit;
  const called = sourceName(visit.definition, table);
  // Another database knows nothing of who comes.
  if (called !== null) visit.assumed?.refuseOpen();
  if (called === visit.place) return visit;
  return { ...visit, ...(await visit.elsewhere(called)) };
}

type Filled = Pick<ViewRecord, 'values' | 'masked'>;

/** Columns of which some lie in other sources. */
export interface DividedColumns {
  /** What to ask of the records' own source. */
  own: string[][];
  /**
   * Looks up the rest and puts it into the records: one question for each relation that crosses, however many records
   * there are.
   */
  /** Gives the columns that can't be had, because the source that holds them is away. */
  fill: (records: Filled[]) => Promise<string[]>;
}

/** Null when all columns are in one source. `taking` when they are taken out, which must be allowed there too. */
export function divide(
  visit: PlacedVisit,
  tableName: string,
  columns: string[][],
  taking = false,
): DividedColumns | null {
  const table = visit.elsewhere && findTable(visit.catalogue, tableName);
  if (!table) return null;
  const crossings = new Map<string, Crossing[]>();
  const own = columns.filter((path) => {
    const crossing = crossingOn(visit.definition, visit.catalogue, table, path);
    if (!crossing) return true;
    const carrier = printPath(crossing.carrier);
    crossings.set(carrier, [...(crossings.get(carrier) ?? []), crossing]);
    return false;
  });
  if (crossings.size === 0) return null;
  const asked = new Set(own.map(printPath));
  const carriers = [...crossings].filter(([carrier]) => !asked.has(carrier));
  return {
    own: [...own, ...carriers.map(([, group]) => group[0]!.carrier)],
    async fill(records) {
      const away = await Promise.all(
        [...crossings].map(([carrier, group]) => fill(visit, records, carrier, group, taking)),
      );
      for (const [carrier] of carriers)
        for (const record of records) {
          delete record.values[carrier];
          if (record.masked.includes(carrier)) record.masked = record.masked.filter((path) => path !== carrier);
        }
      return away.flat();
    },
  };
}

/**
 * Asks for records with columns of which some are in other sources. What the person doesn't see on the way there is not
 * there, as along a relation within a source. Columns whose source is away are named in `away`, and not there either.
 */
export async function across<A extends { records: Filled[] }>(
  visit: PlacedVisit,
  tableName: string,
  columns: string[][],
  ask: (own: string[][]) => Promise<A>,
  taking = false,
): Promise<A & { away?: string[] }> {
  const divided = divide(visit, tableName, columns, taking);
  if (!divided) return ask(columns);
  const answer = await ask(divided.own);
  const away = await divided.fill(answer.records);
  return away.length > 0 ? { ...answer, away } : answer;
}

/**
 * Where a crossing leads for the person: null where they don't see the value that is looked up, or what it ends in, and
 * `away` where its source can't be reached. Throws then where it is `taking`: what is taken out is whole.
 */
export async function beyond<V extends PlacedVisit>(
  visit: V,
  tableName: string,
  { carrier, relation }: Crossing,
  taking = false,
): Promise<V | 'away' | null> {
  const view = viewSql(visit);
  const near = resolvePath(visit.catalogue, findTable(visit.catalogue, tableName)!, carrier);
  if (
    isPathProblem(near) ||
    !opennessCases(view.view(near.table), near.column.name).some(({ openness }) => openness.level === 'shown')
  )
    return null;
  const far = await at(visit, relation.table).catch((error: unknown) => orAway(error, taking));
  if (far === 'away') return grantedSomewhere(visit, relation.table) ? 'away' : null;
  const table = findTable(far.catalogue, relation.table);
  const seen = table && viewSql(far).view(table);
  return table &&
    seen &&
    tableRights(taking ? exportView(seen) : seen).sees &&
    isKnownEnd(viewSql(far).view(table), relation.targetColumn) &&
    canJoin(near.table, relation, table)
    ? far
    : null;
}

/** Whether some role of the person sees something of a table, as far as can be told without its catalogue. */
function grantedSomewhere({ definition, person }: Visit, tableName: string): boolean {
  return (
    person.kind === 'builder' ||
    (Object.hasOwn(definition.access, tableName) &&
      person.roles.some((role) => definition.access[tableName]![role]?.see !== undefined))
  );
}

/**
 * Looks up what the records' values of one column lead to, and puts it into them; gives the columns that can't be had
 * now.
 */
async function fill(
  visit: PlacedVisit,
  records: Filled[],
  carrier: string,
  group: Crossing[],
  taking: boolean,
): Promise<string[]> {
  const { relation } = group[0]!;
  const valueOf = (record: Filled) => (record.masked.includes(carrier) ? null : (record.values[carrier] ?? null));
  const values = [...new Set(records.map(valueOf))].filter((value) => value !== null);
  if (values.length === 0) return [];
  const before = carrier.slice(0, carrier.lastIndexOf('.') + 1);
  const called = (path: string) => `${before}${printPath([relation.name])}.${path}`;
  const far = await at(visit, relation.table).catch((error: unknown) => orAway(error, taking));
  const found =
    far === 'away'
      ? far
      : await recordsByValue(
          far.source,
          far,
          relation,
          values,
          group.map(({ rest }) => rest),
          taking,
        ).catch((error: unknown) => orAway(error, taking));
  if (found === 'away')
    return grantedSomewhere(visit, relation.table) ? group.map(({ rest }) => called(printPath(rest))) : [];
  for (const record of records) {
    const value = valueOf(record);
    const there = value === null ? undefined : found.byValue(value);
    if (!there) continue;
    for (const [path, cell] of Object.entries(there.values)) record.values[called(path)] = cell;
    record.masked.push(...there.masked.map(called));
  }
  return found.away.map(called);
}

/** A source that can't be reached is told as such, but where something is taken out; any other error is one. */
function orAway(error: unknown, taking: boolean): 'away' {
  if (isSourceAway(error) && !taking) return 'away';
  throw error;
}

/**
 * The records of the person's view that a relation from another source leads to, by the values of its column. None
 * where the person doesn't know the column that it ends in, or where values don't tell records apart there.
 */
export async function recordsByValue(
  runner: Runner,
  visit: PlacedVisit,
  { targetColumn, table: tableName }: Pick<Relation, 'table' | 'targetColumn'>,
  values: Value[],
  columns: string[][],
  taking = false,
): Promise<{ byValue: (value: Value) => Filled | undefined; away: string[] }> {
  const table = findTable(visit.catalogue, tableName);
  const column = table && findColumn(table, targetColumn);
  const list = column && values.flatMap((value): Operand[] => operandOf(column, value));
  if (!column || !list?.length || !canJoin(table, { column: targetColumn, targetColumn }, table))
    return { byValue: () => undefined, away: [] };
  const { records, away = [] } = await across(
    visit,
    tableName,
    columns,
    async (own) => {
      const seen = viewSql(visit);
      const view = taking
        ? new ViewSql(visit, new Map([[table.name, exportView(seen.view(table))]]), undefined, true)
        : seen;
      const tables = new Tables(visit.catalogue, table);
      const cells = new Cells(own, visit.catalogue, tables, view);
      const end = view.end(table, targetColumn, tables);
      const among: Condition = { kind: 'in', left: { kind: 'column', path: [targetColumn] }, list };
      const where = joined([view.condition(among, tables), view.rows(tables), sql`${end} IS NOT NULL`], and);
      const rows = await runner.rows(
        sql`SELECT ${selectList([end, ...cells.selected])} FROM ${tables.sql()} WHERE ${where}`,
      );
      return { records: rows.map((row) => ({ ...cells.read(row, 1), end: decode(column, row[0]) })) };
    },
    taking,
  );
  const known = new Map(records.map((record) => [keyOf(column, (record as Filled & { end: Value }).end), record]));
  return { byValue: (value) => known.get(keyOf(column, value)), away };
}

/** How many records of a table hold one of the values in a column that tells them apart. For builders; raw. */
export async function countByValue(
  runner: Runner,
  catalogue: Catalogue,
  { targetColumn, table: tableName }: Pick<Relation, 'table' | 'targetColumn'>,
  values: Value[],
): Promise<number> {
  const table = findTable(catalogue, tableName);
  const column = table && findColumn(table, targetColumn);
  const list = column && values.flatMap((value): Operand[] => operandOf(column, value));
  if (!column || !list?.length) return 0;
  const tables = new Tables(catalogue, table);
  const among = compileCondition(
    { kind: 'in', left: { kind: 'column', path: [targetColumn] }, list },
    rawRecord(tables),
    { scope: { catalogue, table, member: false }, context: { facts: {}, today: '', now: '' } },
  );
  const [row] = await runner.rows(sql`SELECT COUNT(*) AS c0 FROM ${tables.sql()} WHERE ${among}`);
  return Number(row?.[0] ?? 0);
}

/** The value as the condition language writes it; nothing where it is of another kind than the column. */
function operandOf(column: Column, value: Value): Operand[] {
  const text = String(value);
  switch (kindOf(column)) {
    case 'whole':
      return /^-?\d+$/.test(text) ? [{ kind: 'number', digits: text }] : [];
    case 'decimal':
      return /^-?\d+(\.\d+)?$/.test(text) ? [{ kind: 'number', digits: text }] : [];
    case 'text':
      return typeof value === 'string' && (!column.collation || isComparableCollation(column.collation))
        ? [{ kind: 'text', text }]
        : [];
    case 'uuid':
      return isUuid(text) ? [{ kind: 'text', text }] : [];
    case 'date':
      return typeof value === 'string' ? [{ kind: 'text', text }] : [];
    default:
      return [];
  }
}

/** The same text for values that the column holds equal. */
function keyOf(column: Column, value: Value): string {
  const text = String(value);
  const kind = kindOf(column);
  if (kind === 'decimal' || kind === 'whole') return /^-?\d+(\.\d+)?$/.test(text) ? new Big(text).toFixed() : text;
  if (kind === 'uuid') return text.toLowerCase();
  return kind === 'text' && column.collation ? collationKey(column.collation, text) : text;
}
