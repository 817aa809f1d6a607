import { dialectOf } from '../../../core/dialect/of';
import { bound, comma, joined, name, raw, sql, type Sql } from '../../../core/sql/sql';
import { sqlValue } from '../../../core/dialect/sql-value';
import { roleRuleProblem } from '../../../core/access/roster-roles';
import { compileCondition, type RecordSql } from '../../../core/condition/compile';
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
import { nameColumns } from '../../../core/definition/name-columns';
import { fromTable, Tables } from '../view/tables';
import { carriesAddress } from './carries-address';
import type { RawRow, Runner } from '../../sources/source';
import { selectList } from '../view/cells';
import { decode } from '../view/decode';
import { keyIs, readRecordId, recordId } from '../view/record-id';

/** One row of a roster as members are made from it. */
export interface RosterRow {
  key: string;
  name: string;
  /** As written in the table; '' when there is none. */
  email: string;
  /** Whether the roster's condition holds for it. */
  counts: boolean;
}

/**
 * The roster's table when it can be read: its columns exist, no ceiling closes them, and its primary key is one column.
 */
export function rosterTable(catalogue: Catalogue, roster: Roster): Table | null {
  const table = findTable(catalogue, roster.table);
  const isRead = (column: string) =>
    table !== undefined && findColumn(table, column) !== undefined && !isClosed(table, column);
  return table && table.key.length === 1 && [...nameColumns(roster), roster.email].every(isRead) ? table : null;
}

/** Whether a roster can be read at all: its table and columns are there, and no ceiling closes them. */
export function isRosterRead(catalogue: Catalogue, roster: Roster): boolean {
  return rosterTable(catalogue, roster) !== null;
}

/** Whether a row counts. It asks the row's own columns alone; a condition that doesn't work lets nobody in. */
export function countsSql(catalogue: Catalogue, table: Table, { where }: Roster, root: Sql): Sql {
  if (where === undefined) return sql`TRUE`;
  if (roleRuleProblem(where, catalogue, table) !== null) return sql`FALSE`;
  const record: RecordSql = { column: ([own]) => sql`${root}.${name(own!)}`, exists: () => sql`FALSE` };
  const scope = { catalogue, table, member: false };
  return sql`((${compileCondition(where, record, { scope, context: { facts: {}, today: '', now: '' } })}) IS TRUE)`;
}

/** Which rows of a roster are asked for: so many behind a key, in the order of keys; some by key; or some by e-mail. */
export type WhichRows =
  | { after: string | null; size: number }
  | { keys: readonly string[] }
  | { emails: readonly string[] };

/** Rows of a roster, those that don't count as well; null where it can't be read. */
export async function rosterRows(
  runner: Runner,
  catalogue: Catalogue,
  roster: Roster,
  which: WhichRows,
): Promise<RosterRow[] | null> {
  const table = rosterTable(catalogue, roster);
  if (!table) return null;
  const root = name('t0');
  const key = findColumn(table, table.key[0]!)!;
  const at = sql`${root}.${name(key.name)}`;
  const where = whichSql(catalogue, table, roster, which, root);
  if (where === null) return [];
  const selected = [
    at,
    sql`${root}.${name(roster.email)}`,
    sql`CASE WHEN ${countsSql(catalogue, table, roster, root)} THEN 1 ELSE 0 END`,
    ...nameColumns(roster).map((column) => sql`${root}.${name(column)}`),
  ];
  const end = 'size' in which ? sql` ORDER BY ${at} LIMIT ${bound(which.size)}` : sql``;
  const rows = await runner.rows(
    sql`SELECT ${selectList(selected)} FROM ${fromTable(catalogue, table.name)} ${root}${where}${end}`,
  );
  return rows.map(([own, email, counts, ...names]) => ({
    key: recordId([decode(key, own)]),
    email: String(email ?? ''),
    counts: Number(counts) === 1,
    name: names
      .map((part) => String(part ?? '').trim())
      .filter((part) => part !== '')
      .join(' '),
  }));
}

/** Null where no row can be meant. */
function whichSql(catalogue: Catalogue, table: Table, roster: Roster, which: WhichRows, root: Sql): Sql | null {
  const keyAt = sql`${root}.${name(table.key[0]!)}`;
  if ('emails' in which) {
    if (which.emails.length === 0) return null;
    return sql` WHERE ${carriesAddress(catalogue, table, roster.email, root, which.emails)}`;
  }
  const keys = ('keys' in which ? which.keys : which.after === null ? [] : [which.after])
    .map((address) => readRecordId(table, address))
    .filter((values) => values !== null)
    .map(([value]) => bound(sqlValue(value!)));
  if ('keys' in which) return keys.length === 0 ? null : sql` WHERE ${keyAt} IN (${joined(keys, comma)})`;
  return which.after === null ? sql`` : sql` WHERE ${keyAt} > ${keys[0]!}`;
}

/**
 * How many rows of a roster that count carry an address of the product's own tables, as SQL to stand in a statement
 * there; null where it could not be told by an index.
 */
export function rowsOfAddress(catalogue: Catalogue, roster: Roster, address: Sql): Sql | null {
  const table = rosterTable(catalogue, roster);
  const email = table && findColumn(table, roster.email);
  const charset = email?.collation?.split('_')[0];
  if (!table || !email?.indexed || !charset || table.query !== undefined) return null;
  const root = name('r0');
  const own = sql`${root}.${name(email.name)}`;
  const asThere = sql`CONVERT(${address} USING ${raw(charset)}) COLLATE ${raw(email.collation!)}`;
  return sql`(SELECT COUNT(*) FROM ${fromTable(catalogue, table.name)} ${root} WHERE ${own} = ${asThere}
    AND ${dialectOf(catalogue).emailKey(own)} = ${address} AND ${countsSql(catalogue, table, roster, root)})`;
}

/**
 * The e-mails that stand in more than one row of a roster that counts, as people are told apart by them: all, or those
 * among some.
 */
export async function rosterRepeats(
  runner: Runner,
  catalogue: Catalogue,
  roster: Roster,
  among?: readonly string[],
): Promise<Set<string>> {
  const table = rosterTable(catalogue, roster);
  if (!table || among?.length === 0) return new Set();
  const root = name('t0');
  const email = dialectOf(catalogue).emailKey(sql`${root}.${name(roster.email)}`);
  const some = among ? sql` AND ${carriesAddress(catalogue, table, roster.email, root, among)}` : sql``;
  const rows = await runner.rows(
    sql`SELECT e AS c0 FROM (SELECT ${email} AS e FROM ${fromTable(catalogue, table.name)} ${root}
      WHERE ${countsSql(catalogue, table, roster, root)}${some}) emails GROUP BY e HAVING COUNT(*) > 1`,
  );
  return new Set(rows.map(([each]) => String(each)));
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

/** What the data says of a roster's rows that count: how many, without e-mail, and with one that others have too. */
export async function rosterFacts(runner: Runner, catalogue: Catalogue, roster: Roster): Promise<RosterFacts> {
  const table = rosterTable(catalogue, roster);
  if (!table) return { table: roster.table, rows: 0, withoutEmail: 0, sharedEmail: 0 };
  const root = name('t0');
  const email = dialectOf(catalogue).emailKey(sql`${root}.${name(roster.email)}`);
  const counts = countsSql(catalogue, table, roster, root);
  const empty = sql`e = ${dialectOf(catalogue).text('')}`;
  const [row] = await runner.rows(sql`SELECT COALESCE(SUM(n), 0), COALESCE(SUM(CASE WHEN ${empty} THEN n
      ELSE 0 END), 0), COALESCE(SUM(CASE WHEN NOT (${empty}) AND n > 1 THEN n ELSE 0 END), 0)
    FROM (SELECT e, COUNT(*) n FROM (SELECT ${email} AS e FROM ${fromTable(catalogue, table.name)} ${root}
      WHERE ${counts}) emails
      GROUP BY e) counted`);
  return { table: roster.table, rows: Number(row?.[0]), withoutEmail: Number(row?.[1]), sharedEmail: Number(row?.[2]) };
}
