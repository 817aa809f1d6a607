import type { Connection } from 'mariadb';
import type { Client } from 'pg';
import type { Catalogue, Column } from '../../core/table/catalogue';
import type { Source } from '../../server/sources/source';
import { literal, tables } from './postgres-rules';
import type { Scenario } from './scenario';

/** The same in a PostgreSQL database of our own, without the judge's policies. */
export async function loadIntoPostgres(scenario: Scenario, postgres: Client, source: Source): Promise<Catalogue> {
  await postgres.query(
    [
      'DROP SCHEMA public CASCADE',
      'CREATE SCHEMA public',
      ...tables(scenario).filter((statement) => !/VIEW|GRANT/.test(statement)),
    ].join(';\n'),
  );
  return source.catalogue(true);
}

/** Makes the scenario's tables with their rows in an empty schema, and reads the catalogue from there. */
export async function loadIntoMariadb(scenario: Scenario, mariadb: Connection, source: Source): Promise<Catalogue> {
  await mariadb.query('DROP TABLE IF EXISTS c, b, a, people');
  for (const table of scenario.catalogue.tables) {
    const relations = table.relations
      .map((relation) => `, FOREIGN KEY (${relation.column}) REFERENCES ${relation.table} (id)`)
      .join('');
    await mariadb.query(
      `CREATE TABLE ${table.name} ` +
        `(${table.columns.map((column) => `${column.name} ${mariadbType(column)}`).join(', ')}${relations})`,
    );
    const rows = scenario.rows[table.name]!;
    if (rows.length)
      await mariadb.query(
        `INSERT INTO ${table.name} VALUES ` +
          rows.map((row) => `(${table.columns.map((column) => literal(row[column.name]!)).join(', ')})`).join(', '),
      );
  }
  const catalogue = await source.catalogue(true);
  if (catalogue.tables.length !== scenario.catalogue.tables.length)
    throw new Error('the catalogue is not that of the scenario');
  return catalogue;
}

function mariadbType(column: Column): string {
  if (column.name === 'id') return 'INT PRIMARY KEY';
  return (
    {
      'whole number': 'INT',
      text: 'VARCHAR(20) COLLATE utf8mb4_bin',
      date: 'DATE',
      'yes/no': 'BOOLEAN',
      decimal: 'DECIMAL(6,2)',
    }[column.type as 'text'] + ' NULL'
  );
}
