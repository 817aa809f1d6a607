import { builderPerson } from '../../core/access/person';
import { findColumn, findTable, type Catalogue } from '../../core/table/catalogue';
import type { PortalDefinition } from '../../core/definition/definition';
import { bring } from '../gate/bring';
import { drawTable, unmakeTable } from '../gate/shape';
import type { Source } from '../sources/source';
import { FileProblem } from './file-problem';
import type { Script } from './sql-script';

/** Makes the tables of a script and puts its rows in: all of it, or nothing. */
export async function runScript(source: Source, definition: PortalDefinition, script: Script): Promise<{ tables: string[]; rows: number }> {
  const made: string[] = [];
  let rows = 0;
  try {
    for (const table of script.tables) {
      await drawTable(source, await source.catalogue(true), table);
      made.push(table.name);
    }
    for (const part of script.rows) rows += await putRows(source, definition, await source.catalogue(), part);
    return { tables: made, rows };
  } catch (error) {
    for (const table of made.toReversed()) await unmakeTable(source, table);
    throw error;
  }
}

async function putRows(source: Source, definition: PortalDefinition, catalogue: Catalogue, { table, line, columns, values }: Script['rows'][number]): Promise<number> {
  const visit = { definition, catalogue, person: builderPerson, moment: new Date() };
  const known = findTable(catalogue, table)!;
  const missing = columns.find((column) => !findColumn(known, column));
  if (missing !== undefined) throw new FileProblem(`Line ${line}: ${table} has no column ${missing}.`);
  const plan = { table, key: null, unknown: 'add' as const, known: 'change' as const, empty: 'clear' as const, columns: columns.map((column) => ({ header: column, column })) };
  const rows = async function* () { yield { rows: values, lines: values.map((_, i) => i + 1) }; };
  const told = await bring(source, visit, plan, rows, { write: null });
  const [refused] = told.samples.refused;
  if (refused) throw new FileProblem(`Line ${line}: row ${refused.line} of the rows for ${table}: ${refused.cells[0]!.header}, “${refused.cells[0]!.value}”: ${refused.cells[0]!.reason}`);
  await bring(source, visit, plan, rows, { write: { mode: 'all or nothing', expected: told.digest, beforeKeeping: () => Promise.resolve() } });
  return values.length;
}
