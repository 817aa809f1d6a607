import { dialectOf } from '../../../core/dialect/of';
import { joined, name, sql, type Sql } from '../../../core/sql/sql';
import { checkCondition } from '../../../core/condition/check';
import {
  findColumn,
  findTable,
  isClosed,
  isPathProblem,
  resolvePath,
  type Catalogue,
  type Table,
} from '../../../core/table/catalogue';
import type { Row, Value } from '../../../core/table/value';
import type { RosterFacts } from '../../../core/check/roster-findings';
import type { Roster } from '../../../core/definition/definition';
import { fromTable, Tables } from '../view/tables';
import type { RawRow, Runner } from '../../sources/source';
import { decode } from '../view/decode';
import { keyIs, readRecordId, recordId } from '../view/record-id';

/** One row of a roster as members are made from it. */
export interface RosterRow {
  key: string;
  name: string;
  /** As written in the table; '' when there is none. */
  email: string;
}

/**
 * The roster's table when it can be read: its columns exist, no ceiling closes them, and its primary key is one column.
 */
function rosterTable(catalogue: Catalogue, roster: Roster): Table | null {
  const table = findTable(catalogue, roster.table);
  const isRead = (column: string) =>
    table !== undefined && findColumn(table, column) !== undefined && !isClosed(table, column);
  return table && table.key.length === 1 && isRead(roster.name) && isRead(roster.email) ? table : null;
}

/** Every row of a roster, for a refresh of the members. */
export async function rosterRows(runner: Runner, catalogue: Catalogue, roster: Roster): Promise<RosterRow[]> {
  const table = rosterTable(catalogue, roster);
  if (!table) return [];
  const key = findColumn(table, table.key[0]!)!;
  const rows = await runner.rows(
    sql`SELECT ${name(key.name)}, ${name(roster.name)}, ${name(roster.email)}
      FROM ${fromTable(catalogue, table.name)} ${name('t0')} ORDER BY ${name(key.name)}`,
  );
  return rows.map((row) => ({
    key: recordId([decode(key, row[0])]),
    name: String(row[1] ?? ''),
    email: String(row[2] ?? '').trim(),
  }));
}

/** A row of a roster with all its columns, and what relations lead to from it. */
export interface Standing {
  row: Row;
  /** By the fact's parts as JSON. */
  along: Record<string, Value>;
}

/** One row of a roster with all its columns. Null when it is gone. */
export async function rosterRow(
  runner: Runner,
  catalogue: Catalogue,
  roster: Roster,
  key: string,
): Promise<Row | null> {
  const [row] = (await rosterPeople(runner, catalogue, roster, [key])).values();
  return row ?? null;
}

/** The rows of a roster with all their columns, by the row's address: every one, or those asked for. */
export async function rosterPeople(
  runner: Runner,
  catalogue: Catalogue,
  roster: Roster,
  keys?: readonly string[],
): Promise<Map<string, Row>> {
  const standing = await rosterStanding(runner, catalogue, roster, [], keys);
  return new Map([...standing].map(([key, { row }]) => [key, row]));
}

/** How the rows of a roster are read with all their columns, and with the facts that relations lead to from each. */
export interface StandingRead {
  table: Table;
  tables: Tables;
  selected: Sql[];
  /** The row's address, and what stands in it; its values begin at `from`. */
  read(raw: RawRow, from: number): [address: string, standing: Standing];
}

/** Null where the roster can't be read. A fact that can't be asked is left out. */
export function standingRead(
  catalogue: Catalogue,
  roster: Roster,
  facts: readonly (readonly string[])[],
): StandingRead | null {
  const table = rosterTable(catalogue, roster);
  if (!table) return null;
  const tables = new Tables(catalogue, table);
  const { root } = tables;
  const columns = table.columns.filter(
    (column) => column.type !== 'other' && (!isClosed(table, column.name) || table.key.includes(column.name)),
  );
  const along = facts.flatMap((fact) => {
    const operand = { kind: 'member' as const, fact: [...fact] };
    const path = fact.slice(1);
    const found = resolvePath(catalogue, table, path);
    const isAsked = checkCondition(
      { kind: 'null', left: operand },
      { catalogue, table, member: true, memberAlone: true },
    );
    return isPathProblem(found) || found.column.type === 'other' || isAsked.length > 0
      ? []
      : [{ key: JSON.stringify(fact), column: found.column, value: tables.raw(path, [], table) }];
  });
  const dialect = dialectOf(catalogue);
  return {
    table,
    tables,
    selected: [
      ...columns.map((column) => dialect.read(sql`${root}.${name(column.name)}`, column)),
      ...along.map(({ column, value }) => dialect.read(value, column)),
    ],
    read: (raw, from) => {
      const row: Row = {};
      columns.forEach((column, i) => (row[column.name] = decode(column, raw[from + i])));
      const further: Record<string, Value> = {};
      along.forEach(({ key, column }, i) => (further[key] = decode(column, raw[from + columns.length + i])));
      return [recordId([row[table.key[0]!]!]), { row, along: further }];
    },
  };
}

/** As `rosterPeople`, with the facts that relations lead to from each row, read in the same statement. */
export async function rosterStanding(
  runner: Runner,
  catalogue: Catalogue,
  roster: Roster,
  facts: readonly string[][],
  keys?: readonly string[],
): Promise<Map<string, Standing>> {
  const found = standingRead(catalogue, roster, facts);
  const asked = found && keys?.map((key) => readRecordId(found.table, key)).filter((values) => values !== null);
  if (!found || asked?.length === 0) return new Map();
  const { table, tables, selected, read } = found;
  const where = asked?.map((values) => keyIs(tables.root, table, values));
  const rows = await runner.rows(
    sql`SELECT ${joined(selected, sql`, `)} FROM ${tables.sql()}${
      where ? sql` WHERE ${joined(where, sql` OR `)}` : sql``
    }`,
  );
  return new Map(rows.map((raw) => read(raw, 0)));
}

/** What the roster's data says of itself: rows without e-mail, and rows that share one. */
export async function rosterFacts(runner: Runner, catalogue: Catalogue, roster: Roster): Promise<RosterFacts> {
  const table = rosterTable(catalogue, roster);
  if (!table) return { table: roster.table, rows: 0, withoutEmail: 0, sharedEmail: 0 };
  const email = dialectOf(catalogue).emailKey(name(roster.email));
  const empty = sql`e = ${dialectOf(catalogue).text('')}`;
  const [row] = await runner.rows(sql`SELECT COALESCE(SUM(n), 0), COALESCE(SUM(CASE WHEN ${empty} THEN n
      ELSE 0 END), 0), COALESCE(SUM(CASE WHEN NOT (${empty}) AND n > 1 THEN n ELSE 0 END), 0)
    FROM (SELECT e, COUNT(*) n FROM (SELECT ${email} AS e FROM ${fromTable(catalogue, table.name)} ${name('t0')}) emails
      GROUP BY e) counted`);
  return { table: roster.table, rows: Number(row?.[0]), withoutEmail: Number(row?.[1]), sharedEmail: Number(row?.[2]) };
}
