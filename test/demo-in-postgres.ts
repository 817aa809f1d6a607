import { readFile } from 'node:fs/promises';
import type { Client } from 'pg';
import { generateDemo } from '../demo/generate';

/**
 * The demo's tables and rows in a PostgreSQL database: the same schema said in its words, enumerations as types of
 * their own, sets as arrays of them.
 */
export async function loadDemoIntoPostgres(client: Client): Promise<void> {
  const script = await readFile(new URL('../demo/schema.sql', import.meta.url), 'utf8');
  const kinds = new Map<string, 'set' | 'yes/no'>();
  for (const statement of script.replaceAll(/^--.*$/gm, '').split(/;\s*$/m)) {
    const table = /CREATE TABLE (\w+)/.exec(statement)?.[1];
    if (!table) continue;
    const types: string[] = [];
    const said = statement
      .replaceAll(/^ {2}(\w+) (ENUM|SET)(\([^)]*\))/gm, (_, column: string, kind: string, choices: string) => {
        types.push(`CREATE TYPE ${table}_${column} AS ENUM ${choices}`);
        if (kind === 'SET') kinds.set(`${table}.${column}`, 'set');
        return `  ${column} ${table}_${column}${kind === 'SET' ? '[]' : ''}`;
      })
      .replaceAll(/^ {2}(\w+) BOOLEAN/gm, (all, column: string) => {
        kinds.set(`${table}.${column}`, 'yes/no');
        return all;
      })
      .replaceAll('INT AUTO_INCREMENT PRIMARY KEY', 'SERIAL PRIMARY KEY')
      .replaceAll('DATETIME', 'TIMESTAMP')
      .replaceAll(/CHAR\((\d+)\) NOT NULL UNIQUE/g, 'VARCHAR($1) NOT NULL UNIQUE')
      .replaceAll(/ COMMENT '[^']*'/g, '')
      .replaceAll("DEFAULT ''", "DEFAULT '{}'")
      .replaceAll('(LOWER(HEX(RANDOM_BYTES(16))))', "(REPLACE(gen_random_uuid()::text, '-', ''))")
      .replaceAll(/,?\s*KEY \(\w+\)(?=,|\s*\))/g, '');
    for (const each of [...types, said]) await client.query(each);
  }
  for (const { name, columns, rows } of generateDemo()) {
    const convert = (column: string, value: unknown) => {
      const kind = kinds.get(`${name}.${column}`);
      return value === null
        ? null
        : kind === 'set'
          ? String(value).split(',').filter(Boolean)
          : kind === 'yes/no'
            ? Boolean(value)
            : value;
    };
    const step = Math.floor(60_000 / columns.length);
    for (let from = 0; from < rows.length; from += step) {
      const some = rows.slice(from, from + step);
      const marks = some.map((_, i) => `(${columns.map((_column, j) => `$${i * columns.length + j + 1}`).join(', ')})`);
      await client.query(
        `INSERT INTO ${name} (${columns.join(', ')}) VALUES ${marks.join(', ')}`,
        some.flatMap((row) => row.map((value, j) => convert(columns[j]!, value))),
      );
    }
    if (columns.includes('id') && typeof rows[0]![columns.indexOf('id')] === 'number')
      await client.query(`SELECT setval(pg_get_serial_sequence('${name}', 'id'), (SELECT MAX(id) FROM ${name}))`);
  }
}
