import { copyFileSync, mkdirSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { hash } from '@node-rs/argon2';
import { createConnection, type Connection } from 'mariadb';
import { connect as connectTo, demoPassword, loadDemo } from '../demo/load';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Builder } from '../server/store/models';
import { Member } from '../server/store/people-models';
import { openStore } from '../server/store/store';

/**
 * The demo whole, as statements that make it again in other schemas of the same server: loading it anew takes thirty
 * times as long. Records are taken from where it was loaded, the largest tables as the files that hold them; what names
 * schemas is written anew.
 */
export interface DemoCopy {
  /** Each at a schema: the records', or the product's own. */
  statements: { at: 'records' | 'own'; text: string }[];
  /** The tables that are copied as files, and where those are. */
  asFiles: string[];
  files: string;
}

/** Tables with thousands of rows. */
const large = ['results', 'samples', 'visits'];

/** What InnoDB keeps a table in that it can take up again. */
const endings = ['ibd', 'cfg'];

/** Schemas that the demo is loaded into to be copied; their names stand in the portal's definition. */
export const copied = { records: 'demo_to_copy', own: 'demo_to_copy_own' };

/** So many rows go into a statement. */
const rowsAtOnce = 1000;

/** Loads the demo once and reads it back; files are kept in a folder until they are taken up. */
export async function copyDemo(address: DatabaseAddress, files: string): Promise<DemoCopy> {
  const store = await openStore(address, copied.own);
  await loadDemo(address, copied.records, store, copied.own);
  await signInCheaply();
  await store.close();
  const statements: DemoCopy['statements'] = [];
  for (const at of ['records', 'own'] as const) {
    const connection = await connect(address, copied[at]);
    try {
      const tables = await connection.query<{ name: string }[]>(
        'SELECT TABLE_NAME name FROM information_schema.TABLES WHERE TABLE_SCHEMA = ?',
        [copied[at]],
      );
      for (const { name } of tables) {
        const [made] = await connection.query<Record<string, string>[]>(`SHOW CREATE TABLE \`${name}\``);
        statements.push({ at, text: made!['Create Table']! });
        // What the database reckons by itself it reckons again.
        const [{ columns } = { columns: '' }] = await connection.query<{ columns: string }[]>(
          `SELECT GROUP_CONCAT(CONCAT('\`', COLUMN_NAME, '\`') ORDER BY ORDINAL_POSITION) columns
            FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = ? AND TABLE_NAME = ? AND IS_GENERATED = 'NEVER'`,
          [copied[at], name],
        );
        if (at === 'records') {
          if (large.includes(name)) continue;
          const from = `\`${copied.records}\`.\`${name}\``;
          statements.push({ at, text: `INSERT INTO \`${name}\` (${columns}) SELECT ${columns} FROM ${from}` });
          continue;
        }
        const rows = await connection.query<unknown[][]>({
          sql: `SELECT ${columns} FROM \`${name}\``,
          rowsAsArray: true,
        });
        for (let from = 0; from < rows.length; from += rowsAtOnce) {
          const values = rows
            .slice(from, from + rowsAtOnce)
            .map((row) => `(${row.map(written(connection)).join(',')})`);
          statements.push({ at, text: `INSERT INTO \`${name}\` (${columns}) VALUES ${values.join(',')}` });
        }
      }
    } finally {
      await connection.end();
    }
  }
  await exportFiles(address, files);
  return { statements, asFiles: large, files };
}

/** Hundreds of tests sign in by the demo's password, and none of them is about how dear its hash is. */
async function signInCheaply(): Promise<void> {
  const passwordHash = await hash(demoPassword, { algorithm: 2, memoryCost: 64, timeCost: 1, parallelism: 1 });
  await Builder.update({ passwordHash }, { where: {} });
  await Member.update({ passwordHash }, { where: {} });
}

/** By the server's own administrator, since our own user may not have tables held still. */
async function exportFiles({ socketPath }: DatabaseAddress, to: string): Promise<void> {
  mkdirSync(to);
  const connection = await createConnection({ socketPath, user: userInfo().username });
  try {
    await connection.query(`FLUSH TABLES ${large.map((name) => `${copied.records}.${name}`).join(', ')} FOR EXPORT`);
    const data = await dataFolder(connection);
    for (const name of large)
      for (const ending of endings)
        copyFileSync(join(data, copied.records, `${name}.${ending}`), join(to, `${name}.${ending}`));
  } finally {
    await connection.end();
  }
}

async function dataFolder(connection: Connection): Promise<string> {
  return (await connection.query<[{ folder: string }]>('SELECT @@datadir folder'))[0].folder;
}

const written =
  (connection: Connection) =>
  (value: unknown): string =>
    Buffer.isBuffer(value)
      ? `X'${value.toString('hex')}'`
      : // A set, of choices.
        connection.escape(Array.isArray(value) ? value.join(',') : value);

/** Makes the demo again in two empty schemas, as `loadDemo` would have. */
export async function pasteDemo(
  address: DatabaseAddress,
  { statements, asFiles, files }: DemoCopy,
  to: { records: string; own: string },
): Promise<void> {
  const connection = await connect(address, to.records);
  try {
    await connection.query('SET FOREIGN_KEY_CHECKS = 0, UNIQUE_CHECKS = 0');
    for (const at of ['records', 'own'] as const) {
      await connection.query(`USE \`${to[at]}\``);
      await connection.beginTransaction();
      for (const statement of statements)
        if (statement.at === at)
          await connection.query(
            at === 'records'
              ? statement.text
              : // The longer name first, since it begins with the other.
                statement.text.replaceAll(copied.own, to.own).replaceAll(copied.records, to.records),
          );
      await connection.commit();
    }
    await connection.query(`USE \`${to.records}\``);
    const data = await dataFolder(connection);
    for (const name of asFiles) {
      await connection.query(`ALTER TABLE ${name} DISCARD TABLESPACE`);
      for (const ending of endings)
        copyFileSync(join(files, `${name}.${ending}`), join(data, to.records, `${name}.${ending}`));
      await connection.query(`ALTER TABLE ${name} IMPORT TABLESPACE`);
    }
    const tables = statements.flatMap(({ at, text }) =>
      at === 'records' ? (/^CREATE TABLE (`[^`]+`)/.exec(text)?.[1] ?? []) : [],
    );
    await connection.query(`ANALYZE TABLE ${tables.map((table) => `\`${to.records}\`.${table}`).join(', ')}`);
  } finally {
    await connection.end();
  }
}

/** Every value as its text, so that it goes in as it came out. */
const connect = (address: DatabaseAddress, database: string): Promise<Connection> =>
  connectTo(address, database, { dateStrings: true, bigIntAsNumber: false, decimalAsNumber: false });
