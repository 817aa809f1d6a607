import { Client } from 'pg';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { create } from './write/create';
import { edit } from './write/edit';
import { list } from './read/list';
import { read } from './read/read';
import { remove } from './write/remove';
import type { Visit } from './view/visit';

/**
 * The worked example of the PostgreSQL 15 manual, chapter 5 "Data Definition", section 5.8 "Row Security Policies": a
 * table of accounts like a
 * Unix password file. The same rules as a portal, the manual's statements in both, the manual's outcomes beside them.
 */
let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
let postgres: Client;
const when = (text: string) => parseCondition(text).condition;
const open = ['user_name', 'uid', 'gid', 'real_name', 'home_phone', 'extra_info', 'home_dir', 'shell'];
const all = ['user_name', 'pwhash', ...open.slice(1)];
const own = 'user_name = :member.passwd.user_name';
const shells = "shell IN ('/bin/bash', '/bin/sh', '/bin/dash', '/bin/zsh', '/bin/tcsh')";

const definition: PortalDefinition = {
  ...emptyDefinition({ slug: 'manual', name: 'Manual', timeZone: 'UTC', colour: '#1f5f85' }, 'manual'),
  roles: [
    { id: 'admin', name: 'Administrator' },
    { id: 'user', name: 'User' },
  ],
  access: {
    passwd: {
      admin: {
        see: { where: 'every row', columns: all },
        create: { columns: all, keepIn: 'every row' },
        edit: { where: 'every row', columns: all },
        delete: { where: 'every row' },
      },
      // "Alice can change her own password", which she can't read: replaced unseen.
      user: {
        see: { where: 'every row', columns: open },
        edit: {
          where: when(own),
          columns: ['pwhash', 'real_name', 'home_phone', 'extra_info', 'shell'],
          unseen: ['pwhash'],
          keepIn: when(`${own} AND ${shells}`),
        },
      },
    },
  },
};

const table =
  'CREATE TABLE passwd (user_name VARCHAR(40) PRIMARY KEY, pwhash TEXT, uid INT UNIQUE, gid INT NOT NULL, ' +
  'real_name TEXT NOT NULL, home_phone TEXT, extra_info TEXT, home_dir TEXT NOT NULL, shell VARCHAR(40) NOT ' +
  'NULL)';

const rows = [
  ["'admin'", "'xxx'", 0, 0, "'Admin'", "'111-222-3333'", 'null', "'/root'", "'/bin/dash'"],
  ["'bob'", "'xxx'", 1, 1, "'Bob'", "'123-456-7890'", 'null', "'/home/bob'", "'/bin/zsh'"],
  ["'alice'", "'xxx'", 2, 1, "'Alice'", "'098-765-4321'", 'null', "'/home/alice'", "'/bin/zsh'"],
].map((row) => `INSERT INTO passwd VALUES (${row.join(', ')})`);

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'manual');
  for (const statement of [table, ...rows]) await plain.query(statement);
  source = new MariadbSource(inject('database'), 'manual');
  catalogue = await source.catalogue();
  postgres = new Client(inject('postgres'));
  await postgres.connect();
  await postgres.query('CREATE SCHEMA manual; SET search_path = manual');
  for (const statement of [
    table,
    ...rows,
    'CREATE ROLE admin',
    'CREATE ROLE bob',
    'CREATE ROLE alice',
    'GRANT USAGE ON SCHEMA manual TO PUBLIC',
    'ALTER TABLE passwd ENABLE ROW LEVEL SECURITY',
    'CREATE POLICY admin_all ON passwd TO admin USING (true) WITH CHECK (true)',
    'CREATE POLICY all_view ON passwd FOR SELECT USING (true)',
    'CREATE POLICY user_mod ON passwd FOR UPDATE USING (current_user = user_name) WITH CHECK (current_user = ' +
      "user_name AND shell IN ('/bin/bash', '/bin/sh', '/bin/dash', '/bin/zsh', '/bin/tcsh'))",
    'GRANT SELECT, INSERT, UPDATE, DELETE ON passwd TO admin',
    `GRANT SELECT (${open.join(', ')}) ON passwd TO public`,
    'GRANT UPDATE (pwhash, real_name, home_phone, extra_info, shell) ON passwd TO public',
  ])
    await postgres.query(statement);
});

afterAll(async () => {
  await postgres?.end();
  await source?.close();
  await plain?.end();
});

const visit = (who: string): Visit => ({
  definition,
  catalogue,
  moment: new Date(),
  person: {
    kind: 'member',
    id: 1,
    email: `${who}@example.org`,
    organisation: null,
    roles: [who === 'admin' ? 'admin' : 'user'],
    rows: { passwd: { user_name: who } },
  } satisfies Person,
});

const ours = async (work: () => Promise<unknown>) =>
  work().then(
    () => 'done',
    (error: Error) => error.constructor.name,
  );

/** The manual's statement as the manual's user. */
async function theirs(who: string, statement: string): Promise<string | number> {
  await postgres.query('BEGIN');
  await postgres.query(`SET LOCAL ROLE ${who}`);
  try {
    return (await postgres.query(statement)).rowCount ?? 0;
  } catch (error) {
    return (error as Error).message.replace(/ for .*/, '');
  } finally {
    await postgres.query('ROLLBACK');
  }
}

const set = (who: string, id: string, column: string, to: string) =>
  ours(async () => {
    const record = await read(source, visit(who), 'passwd', id);
    return edit(source, visit(who), 'passwd', id, { [column]: { from: record.values[column], to } }, { trial: true });
  });

describe("the manual's password file", () => {
  it('shows administrators everything, and users the open columns of every row', async () => {
    expect(await theirs('admin', 'TABLE passwd')).toBe(3);
    const everything = await list(source, visit('admin'), 'passwd', {
      columns: all.map((column) => [column]),
      sort: [],
      where: [],
      search: '',
      after: null,
      before: null,
      size: 9,
    });
    expect(everything.records.map((record) => [record.values.user_name, record.values.pwhash])).toEqual([
      ['admin', 'xxx'],
      ['alice', 'xxx'],
      ['bob', 'xxx'],
    ]);
    expect(await theirs('alice', 'TABLE passwd')).toBe('permission denied');
    expect(
      await theirs('alice', 'SELECT user_name, real_name, home_phone, extra_info, home_dir, shell FROM passwd'),
    ).toBe(3);
    const seen = await list(source, visit('alice'), 'passwd', {
      columns: all.map((column) => [column]),
      sort: [],
      where: [],
      search: '',
      after: null,
      before: null,
      size: 9,
    });
    expect(seen.records.map((record) => Object.keys(record.values))).toEqual([open, open, open]);
  });

  it('lets Alice change her own name and password, and nothing else', async () => {
    const cases: [string, string | number, () => Promise<string>, string][] = [
      [
        "UPDATE passwd SET user_name = 'joe'",
        'permission denied',
        () => set('alice', 'alice', 'user_name', 'joe'),
        'Refused',
      ],
      ["UPDATE passwd SET real_name = 'Alice Doe'", 1, () => set('alice', 'alice', 'real_name', 'Alice Doe'), 'done'],
      [
        "UPDATE passwd SET real_name = 'John Doe' WHERE user_name = 'admin'",
        0,
        () => set('alice', 'admin', 'real_name', 'John Doe'),
        'Refused',
      ],
      [
        "UPDATE passwd SET shell = '/bin/xx'",
        'new row violates row-level security policy',
        () => set('alice', 'alice', 'shell', '/bin/xx'),
        'Refused',
      ],
      [
        'DELETE FROM passwd',
        'permission denied',
        () => ours(() => remove(source, visit('alice'), 'passwd', 'alice', {}, { trial: true })),
        'Refused',
      ],
      [
        "INSERT INTO passwd (user_name) VALUES ('xxx')",
        'permission denied',
        () => ours(() => create(source, visit('alice'), 'passwd', { user_name: 'xxx' }, { trial: true })),
        'NotFound',
      ],
      ["UPDATE passwd SET pwhash = 'abcd'", 1, () => set('alice', 'alice', 'pwhash', 'abcd'), 'done'],
    ];
    for (const [statement, manual, run, outcome] of cases)
      expect([statement, await theirs('alice', statement), await run()]).toEqual([statement, manual, outcome]);
    expect(await theirs('admin', "DELETE FROM passwd WHERE user_name = 'bob'")).toBe(1);
    expect(await ours(() => remove(source, visit('admin'), 'passwd', 'bob', {}, { trial: true }))).toBe('done');
  });
});
