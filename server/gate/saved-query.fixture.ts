import { Client } from 'pg';
import { afterAll, beforeAll, inject } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema, schemaOfWorker } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { MariadbSource } from '../sources/mariadb';
import { PostgresSource } from '../sources/postgres';
import type { Source } from '../sources/source';
import { withSavedQueries, type SavedQuery } from './facts/saved-query';
import type { Visit } from './view/visit';

export const schema = schemaOfWorker('asked');

let plain: Connection;

let client: Client;

export const sides: { source: Source; run: (text: string) => Promise<unknown> }[] = [];

export const rows = async (run: (text: string) => Promise<unknown>, text: string) => {
  const found = await run(text);
  return ((found as { rows?: unknown[] }).rows ?? (found as unknown[])).map((row) =>
    Object.values(row as object).map(String),
  );
};

/** To be called once in each file that uses these: several files may share one process. */
export function withSavedQuery(): void {
  beforeAll(async () => {
    plain = await freshSchema(inject('database'), schema);
    client = new Client(inject('postgres'));
    await client.connect();
    for (const statement of [
      `DROP SCHEMA IF EXISTS ${schema} CASCADE`,
      `CREATE SCHEMA ${schema}`,
      `SET search_path TO ${schema}`,
    ])
      await client.query(statement);
    for (const run of [(text: string) => plain.query(text), (text: string) => client.query(text)]) {
      await run('CREATE TABLE owners (id INT PRIMARY KEY, name VARCHAR(40) NOT NULL, parish VARCHAR(40))');
      await run(
        'CREATE TABLE visits (id INT PRIMARY KEY, owner_id INT NOT NULL, fee DECIMAL(8,2), day DATE, FOREIGN KEY ' +
          '(owner_id) REFERENCES owners (id))',
      );
      for (let i = 1; i <= 6; i++)
        await run(`INSERT INTO owners VALUES (${i}, 'Owner ${i}', '${i % 2 ? 'Marsh' : 'Hill'}')`);
      for (let i = 1; i <= 40; i++)
        await run(
          `INSERT INTO visits VALUES (${i}, ${1 + (i % 6)}, ${i}.50, ` +
            `'2026-11-${String(1 + (i % 28)).padStart(2, '0')}')`,
        );
    }
    sides.push(
      { source: new MariadbSource(inject('database'), schema), run: (text) => plain.query(text) },
      { source: new PostgresSource(inject('postgres'), schema), run: (text) => client.query(text) },
    );
  });

  afterAll(async () => {
    for (const { source } of sides.splice(0)) await source.close();
    await plain?.end();
    await client?.end();
  });
}

export const perOwner: SavedQuery = {
  name: 'per_owner',
  key: ['owner_id'],
  text:
    'SELECT o.id AS owner_id, o.name AS name, o.parish AS parish, COUNT(*) AS visits, SUM(v.fee) AS paid, ' +
    'MAX(v.day) AS latest FROM owners o JOIN visits v ON v.owner_id = o.id WHERE v.fee > 2 GROUP BY o.id, ' +
    'o.name, o.parish',
};

export const definition: PortalDefinition = {
  ...emptyDefinition({ slug: 'asked', name: 'Asked', timeZone: 'UTC', colour: '#1f5f85' }, schema),
  roles: [{ id: 'clerk', name: 'Clerk' }],
  access: {
    per_owner: {
      clerk: {
        see: {
          where: parseCondition("parish = 'Marsh' AND owner.name <> 'Owner 3'").condition,
          columns: ['owner_id', 'name', 'visits', 'paid'],
        },
        edit: { where: 'every row', columns: ['name'] },
      },
    },
    owners: { clerk: { see: { where: 'every row', columns: ['id', 'parish'] } } },
  },
  masks: [
    {
      id: 'paid',
      table: 'per_owner',
      column: 'paid',
      mask: { style: 'step', size: '100' },
      to: 'everyone',
      exceptRoles: [],
    },
  ],
};

export const clerk: Person = {
  kind: 'member',
  id: 1,
  email: 'c@example.org',
  organisation: null,
  roles: ['clerk'],
  rows: {},
};

export const visitOf = async (source: Source, person: Person, queries = [perOwner]): Promise<Visit> => ({
  definition,
  catalogue: await withSavedQueries(source, await source.catalogue(true), queries),
  person,
  moment: new Date(),
});
