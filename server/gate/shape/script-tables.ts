import { ceilingRows } from '../../../core/definition/ceilings';
import { randomBytes } from 'node:crypto';
import { comma, joined, name, sql, type Sql } from '../../../core/sql/sql';
import { dialectOf } from '../../../core/dialect/of';
import { findColumn, findTable, type Catalogue, type Column } from '../../../core/table/catalogue';
import { drawnColumn, type DrawnColumn } from '../../../core/table/drawn';
import type { Script, ScriptCell, ScriptTable } from '../../../core/table/script';
import { parseValue, type Value } from '../../../core/table/value';
import { DatabaseRefusal } from '../../sources/refusal';
import type { Runner, Source } from '../../sources/source';
import { InvalidValues } from '../view/errors';
import { quoted } from './column-type';
import { columnRules, plain, typeSql } from './shape';
import { dropTables } from './set-aside';

/**
 * The tables of a script under names that the catalogue doesn't show, until they are kept or dropped. Of one source and
 * one script.
 */
export interface ScriptMaking {
  source: Source;
  catalogue: Catalogue;
  script: Script;
  /** The name under which a table of the script is for now. */
  named(table: string): string;
}

export function beginScript(source: Source, catalogue: Catalogue, script: Script): ScriptMaking {
  const token = randomBytes(6).toString('hex');
  const places = new Map(script.tables.map((table, i) => [table.name, `_porch_making_${token}_${i}`]));
  return { source, catalogue, script, named: (table) => places.get(table) ?? table };
}

/**
 * Makes the tables as the script has them: their columns' order, defaults, keys, remarks and what happens to relations.
 */
export async function createScriptTables(making: ScriptMaking): Promise<void> {
  const { source, script, named } = making;
  for (const table of script.tables) {
    const twice = table.order.find((column, i) => table.order.indexOf(column) !== i);
    if (twice !== undefined) throw new InvalidValues({ [twice]: `${table.name} has two columns ${twice}.` });
    const parts = script.parentsLater ? [] : relationsOf(making, table);
    const indexes = table.indexes.map(
      ({ unique, columns }) => sql`${plain(unique ? 'UNIQUE KEY' : 'KEY')} (${joined(columns.map(name), comma)})`,
    );
    const all = [
      ...(table.order.includes(table.key) ? [] : [numberOf(table)]),
      ...table.order.map((column) => described(making, table, column)),
      sql`PRIMARY KEY (${name(table.key)})`,
      ...indexes,
      ...parts,
    ];
    const next = table.next === undefined ? sql`` : plain(` AUTO_INCREMENT = ${BigInt(table.next)}`);
    const note = table.note === undefined ? sql`` : sql` COMMENT = ${quoted(table.note)}`;
    await source.write(sql`CREATE TABLE ${name(named(table.name))} (${joined(all, comma)})${next}${note}`);
  }
}

/** Puts the rows of one INSERT in as one statement, so that the database numbers them as it would by itself. */
export async function putScriptRows(
  making: ScriptMaking,
  { table, columns, values }: Script['rows'][number],
): Promise<void> {
  const { source, named, catalogue } = making;
  const known = making.script.tables.find((each) => each.name === table)!;
  const given = columns.map((column) => columnOf(making, known, column));
  const required = known.columns.find(
    (column) => column.required && column.initial === null && !columns.includes(column.name),
  );
  if (required)
    throw new InvalidValues({ [required.name]: `row 1 has no value for ${required.name}, which must have one.` });
  const { value } = dialectOf(catalogue);
  const rows = values.map((row, i) => row.map((cell, c) => cellSql(given[c]!, cell, i + 1, value)));
  const into = sql`INSERT INTO ${name(named(table))} (${joined(columns.map(name), comma)}) VALUES `;
  const put = (runner: Pick<Runner, 'write'>, some: Sql[][]) =>
    runner.write(
      sql`${into}${joined(
        some.map((row) => sql`(${joined(row, comma)})`),
        comma,
      )}`,
    );
  try {
    await put(source, rows);
  } catch (error) {
    // Which row it is the database doesn't tell: the shortest beginning that it refuses ends with that row.
    let [taken, refusing] = [0, rows.length];
    let found: unknown = error;
    while (refusing - taken > 1) {
      const half = (taken + refusing) >> 1;
      const problem = await source
        .transaction((runner) =>
          runner.attempt(async () => {
            await put(runner, rows.slice(0, half));
            return null;
          }),
        )
        .then(
          () => undefined,
          (each: unknown) => each,
        );
      if (problem === undefined) taken = half;
      else [refusing, found] = [half, problem];
    }
    throw refused(refusing, found);
  }
}

const reasons: Record<DatabaseRefusal['kind'], string> = {
  taken: 'a value that must be the only one is there already',
  'no such record': "it leads to a record that isn't there",
  'still used': 'other records belong to it',
  'does not fit': "a value doesn't fit",
  'breaks a rule': 'it breaks a rule of the table',
};

/**
 * What the database refuses of a script's rows, and of which of a statement; null where it tells it of all together.
 */
export class ScriptRowsRefused extends Error {
  constructor(
    readonly row: number | null,
    readonly reason: string,
    cause: unknown,
  ) {
    super(`rows of a script are refused: ${reason}`, { cause });
  }
}

function refused(row: number | null, error: unknown): unknown {
  return error instanceof DatabaseRefusal
    ? new ScriptRowsRefused(row, `${reasons[error.kind]}${error.column === null ? '' : ` (${error.column})`}`, error)
    : error;
}

/** Gives the tables their names, all at once. */
export async function keepScript(making: ScriptMaking): Promise<void> {
  const { source, script, named } = making;
  await relateLater(making);
  await source.write(
    sql`RENAME TABLE ${joined(
      script.tables.map((table) => sql`${name(named(table.name))} TO ${name(table.name)}`),
      comma,
    )}`,
  );
  await source.catalogue(true);
}

/** Where a script says that parents may come after their children, they are held against each other at its end. */
export async function relateLater(making: ScriptMaking): Promise<void> {
  const { source, script, named } = making;
  for (const table of script.parentsLater ? script.tables : []) {
    const parts = relationsOf(making, table).map((part) => sql`ADD ${part}`);
    if (parts.length > 0)
      await source
        .write(sql`ALTER TABLE ${name(named(table.name))} ${joined(parts, comma)}`)
        .catch((error: unknown) => {
          throw refused(null, error);
        });
  }
}

export async function dropScript({ source, script, named }: ScriptMaking): Promise<void> {
  await dropTables(
    source,
    script.tables.map((table) => named(table.name)),
  );
}

const numberOf = (table: ScriptTable): Sql =>
  sql`${name(table.key)} BIGINT AUTO_INCREMENT
    ${table.notes[table.key] === undefined ? sql`` : sql` COMMENT ${quoted(table.notes[table.key]!)}`}`;

function described(making: ScriptMaking, table: ScriptTable, columnName: string): Sql {
  const column = table.columns.find((each) => each.name === columnName);
  if (!column) return numberOf(table);
  const note = table.notes[column.name];
  const rest = sql`${columnRules(column)}${note === undefined ? sql`` : sql` COMMENT ${quoted(note)}`}`;
  return sql`${name(column.name)} ${typeOf(making, table, column)}${rest}`;
}

function relationsOf(making: ScriptMaking, table: ScriptTable): Sql[] {
  return table.columns.flatMap((column) => {
    const end = table.ends[column.name];
    if (!end || column.to === undefined) return [];
    endOf(making, table, column);
    const action = (on: 'DELETE' | 'UPDATE', what: string | undefined) =>
      what === undefined ? sql`` : plain(` ON ${on} ${what}`);
    return [
      sql`FOREIGN KEY (${name(column.name)}) REFERENCES ${name(making.named(column.to))}
        (${name(end.column)})${action('DELETE', end.onDelete)}${action('UPDATE', end.onUpdate)}`,
    ];
  });
}

/** The column that a relation leads to: of the script, or of a table that is there. */
function endOf(
  { script, catalogue }: ScriptMaking,
  table: ScriptTable,
  column: DrawnColumn,
): { drawn: DrawnColumn; of: ScriptTable } | { known: Column } | { number: true } {
  const end = table.ends[column.name]!.column;
  const of = script.tables.find((each) => each.name === column.to);
  if (of) {
    const drawn = of.columns.find((each) => each.name === end);
    if (drawn) return { drawn, of };
    if (end === of.key) return { number: true };
  }
  const there = of ? undefined : findTable(catalogue, column.to!);
  const known = there && findColumn(there, end);
  if (!known)
    throw new InvalidValues({
      [column.name]: `${table.name}.${column.name} leads to ${column.to}.${end}, which there isn't.`,
    });
  // Whether a value is there would be told by what the database refuses.
  if (ceilingRows(there) !== null || there.ceiling?.columns?.[end] !== undefined)
    throw new InvalidValues({ [column.name]: `${column.to} is under a ceiling, so a script can't lead to it.` });
  return { known };
}

/** The very type of the other end, as a foreign key takes no other. */
function typeOf(making: ScriptMaking, table: ScriptTable, column: DrawnColumn): Sql {
  if (column.type !== 'relation') return typeSql(making.catalogue, column);
  const end = endOf(making, table, column);
  return 'number' in end
    ? plain('BIGINT')
    : 'known' in end
      ? plain(end.known.nativeType)
      : typeOf(making, end.of, end.drawn);
}

function columnOf(making: ScriptMaking, table: ScriptTable, columnName: string): Column {
  const column = table.columns.find((each) => each.name === columnName);
  if (!column)
    return {
      ...drawnColumn({ name: columnName, type: 'whole number', required: false, unique: true, initial: null }),
      automatic: true,
    };
  if (column.type !== 'relation') return drawnColumn(column);
  const end = endOf(making, table, column);
  const like =
    'number' in end
      ? drawnColumn({ ...column, type: 'whole number' })
      : 'known' in end
        ? end.known
        : columnOf(making, end.of, end.drawn.name);
  return {
    ...like,
    name: column.name,
    nullable: !column.required,
    hasDefault: column.initial !== null,
    automatic: false,
  };
}

function cellSql(column: Column, cell: ScriptCell, row: number, encoded: (value: Value) => unknown): Sql {
  if (cell === undefined) return plain('DEFAULT');
  if (cell === null) {
    if (!column.nullable && !column.automatic)
      throw new InvalidValues({ [column.name]: `row ${row} has NULL for ${column.name}, which must have a value.` });
    return plain('NULL');
  }
  // An empty text is a value of its own to a database.
  const parsed =
    cell === '' && (column.type === 'text' || column.type === 'long text')
      ? { ok: true as const, value: '' }
      : parseValue({ ...column, nullable: true }, cell);
  if (!parsed.ok)
    throw new InvalidValues({ [column.name]: `row ${row}: ${column.name}, “${cell.slice(0, 60)}”: ${parsed.problem}` });
  const value = encoded(parsed.value);
  return value === null ? plain('NULL') : quoted(String(value));
}
