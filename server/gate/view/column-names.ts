import { printPath, readPath } from '../../../core/definition/path';
import { findColumn, type Table } from '../../../core/table/catalogue';
import { Conflict, InvalidValues, Refused } from './errors';

/**
 * People and their programs name a column as paths do: `note`, `"odd name"`. Inside it is called as the database calls
 * it; what comes in and goes out passes here.
 */
/**
 * What was sent, by the database's names of columns. A name of no column stays as it is: it is refused like one that
 * may not be written.
 */
export function byColumn<T>(table: Table, sent: Record<string, T>): Record<string, T> {
  return Object.fromEntries(Object.entries(sent).map(([name, each]) => [columnNamed(table, name), each]));
}

function columnNamed(table: Table, name: string): string {
  if (findColumn(table, name)) return name;
  const path = readPath(name);
  return path?.length === 1 && findColumn(table, path[0]!) ? path[0]! : name;
}

/** A column as people name it. */
export function named(column: string): string {
  return printPath([column]);
}

/** A refusal that names its columns as people do. */
export async function namingColumns<T>(table: Table | undefined, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!table || !(error instanceof InvalidValues || error instanceof Refused || error instanceof Conflict))
      throw error;
    const fields = Object.entries(error.fields as Record<string, unknown>);
    if (fields.every(([column]) => !findColumn(table, column) || named(column) === column)) throw error;
    const renamed = Object.fromEntries(
      fields.map(([column, each]) => [findColumn(table, column) ? named(column) : column, each]),
    );
    throw error instanceof Conflict
      ? new Conflict(renamed as Conflict['fields'])
      : error instanceof Refused
        ? new Refused(error.message, renamed as Record<string, string>)
        : new InvalidValues(renamed as Record<string, string>);
  }
}
