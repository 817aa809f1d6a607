import { readDefinition } from '../sections/definition';
import { readFile } from 'node:fs/promises';
import { createConnection, type Connection, type ConnectionConfig } from 'mariadb';
import type { SignInRules } from '../core/sign-in/sign-in-rules';
import { refreshMembers } from '../server/people/refresh';
import { rostersOf } from '../server/people/rosters-at';
import { publishDraft } from '../server/versions/publish';
import { Sources } from '../server/definitions/definitions';
import { hashPassword } from '../server/sessions/passwords';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { rememberPlan } from '../core/table/import-plan';
import { Builder, ImportMapping, Portal, Setting } from '../server/store/models';
import { Member } from '../server/store/people-models';
import type { Store } from '../server/store/store';
import { Advice } from '../core/refusals/advice';
import { demoMapping, type DemoOutsideAt } from './actions';
import { demoDefinition } from './definition';
import { generateDemo } from './generate';
import { talkInDemo } from './talk';

/** One password for everyone in the demo; shown on its sign-in pages. */
export const demoPassword = 'stone upon stone upon stone';
export const demoBuilder = { email: 'builder@example.org', name: 'Wren Ashby' };

/** Makes the demo's tables in a schema that is there and empty, with all their rows. */
export async function loadTables(address: DatabaseAddress, schema: string, demo = generateDemo()): Promise<void> {
  const connection = await connect(address, schema);
  try {
    const statements = (await readFile(new URL('./schema.sql', import.meta.url), 'utf8')).split(/;\s*$/m);
    for (const statement of statements) if (statement.trim()) await connection.query(statement);
    // Rows fit each other as they are generated, which PostgreSQL looks at in the tests: without looking they go in at
    // twice the speed.
    await connection.query('SET foreign_key_checks = 0, unique_checks = 0');
    await connection.beginTransaction();
    for (const table of demo) {
      const marks = table.columns.map(() => '?').join(', ');
      await connection.batch(`INSERT INTO ${table.name} (${table.columns.join(', ')}) VALUES (${marks})`, table.rows);
    }
    await connection.commit();
  } finally {
    await connection.end();
  }
}

const roleWords: Record<string, string> = {
  chemist: 'Lab chemist',
  courier: 'Lab courier',
  'lab lead': 'Lab chemist who leads',
  desk: 'Programme desk',
  accounts: 'Accounts',
  'parish steward': 'Parish steward',
};

/** Set while the demo is being loaded: a start that finds it knows that an earlier one was ended in the middle. */
export const demoLoading = 'demo-loading';

/**
 * The demo whole: tables, builder, portal, members with their password, and version 1 published. Nothing is left when
 * it fails.
 */
export async function loadDemo(
  address: DatabaseAddress,
  schema: string,
  store: Store,
  ownSchema: string,
  { signIn, outside }: { signIn?: SignInRules; outside?: DemoOutsideAt } = {},
): Promise<void> {
  const admin = await connect(address);
  try {
    const [held] = await admin.query<{ n: bigint }[]>(
      'SELECT COUNT(*) n FROM information_schema.TABLES WHERE TABLE_SCHEMA = ?',
      [schema],
    );
    if (Number(held?.n) > 0 && !(await Setting.findByPk(demoLoading))) {
      throw new Advice(
        `The schema ${schema} holds tables already, so the demo is not loaded into it. Start without the demo: ` +
          'npm start -- --empty',
      );
    }
    await Setting.upsert({ name: demoLoading, value: schema });
    await admin.query(`DROP DATABASE IF EXISTS \`${schema}\``);
    await admin.query(`CREATE DATABASE \`${schema}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci`);
    const generated = generateDemo();
    await loadTables(address, schema, generated);
    const passwordHash = await hashPassword(demoPassword);
    await Builder.findOrCreate({ where: { email: demoBuilder.email }, defaults: { ...demoBuilder, passwordHash } });
    const definition = readDefinition({ ...demoDefinition(schema, true, outside), ...(signIn ? { signIn } : {}) });
    await Portal.destroy({ where: { slug: definition.portal.slug } });
    const portal = await Portal.create({
      slug: definition.portal.slug,
      draft: JSON.stringify(definition),
      revision: 1,
      publishedVersion: null,
    });
    const sources = new Sources(address, { ownSchema, connections: 2 });
    const rosters = await rostersOf({ sources }, definition);
    await store.sequelize.transaction((transaction) => refreshMembers(portal.id, rosters, transaction));
    await Member.update({ passwordHash }, { where: { portalId: portal.id } });
    await admin.query(
      `UPDATE \`${schema}\`.visits v LEFT JOIN \`${schema}\`.samplers s ON s.id = v.planned_by
      LEFT JOIN \`${ownSchema}\`.members m ON m.email = LOWER(s.email) AND m.portal_id = ? SET v.planned_by = m.id
        WHERE v.planned_by IS NOT NULL`,
      [portal.id],
    );
    // The database plans by its statistics, and gathers them of new tables only after a while.
    const tables = await admin.query<{ TABLE_NAME: string }[]>(
      'SELECT TABLE_NAME FROM information_schema.TABLES WHERE TABLE_SCHEMA = ?',
      [schema],
    );
    await admin.query(
      `ANALYZE TABLE ${tables.map(({ TABLE_NAME: table }) => `\`${schema}\`.\`${table}\``).join(', ')}`,
    );
    const kept = { portalId: portal.id, tableName: demoMapping.table };
    await ImportMapping.upsert({ ...kept, mapping: JSON.stringify(rememberPlan(demoMapping, 'delimited text', null)) });
    await publishDraft(store.sequelize, portal.id, 1, 'The demo as it comes', demoBuilder.name);
    await talkInDemo(store.sequelize, sources, definition, portal.id);
    await sources.close();
    const both = await Member.findOne({
      where: {
        portalId: portal.id,
        email: generated.find((table) => table.name === 'samplers')!.rows[3]![2] as string,
      },
    });
    const members = [
      { email: 'ines.brannock@example.org', name: 'Ines Brannock', role: 'Well owner' },
      { email: 'mara.lindqvist@example.org', name: 'Mara Lindqvist', role: 'Sampler' },
      { email: both!.email, name: both!.name, role: 'Sampler and well owner' },
      ...generated
        .filter((table) => table.name === 'lab_staff' || table.name === 'staff')
        .flatMap((table) => {
          const kind = table.name === 'staff' ? 3 : 4;
          // The first of each kind.
          const wordOf = (row: readonly unknown[]) =>
            table.name === 'lab_staff' && row[5] === 1 ? 'lab lead' : String(row[kind]);
          return [...new Map(table.rows.toReversed().map((row) => [wordOf(row), row])).values()]
            .toReversed()
            .map((row) => ({ email: String(row[2]), name: String(row[1]), role: roleWords[wordOf(row)]! }));
        }),
    ];
    const demo = {
      builder: { people: [{ ...demoBuilder, role: 'Builder' }], password: demoPassword },
      members: { [portal.slug]: { people: members, password: demoPassword } },
    };
    await Setting.upsert({ name: 'demo', value: JSON.stringify(demo) });
    await Setting.destroy({ where: { name: demoLoading } });
  } finally {
    await admin.end();
  }
}

/** A connection of one's own to a database, and to one of its schemas. */
export function connect(
  address: DatabaseAddress,
  database?: string,
  more: Partial<ConnectionConfig> = {},
): Promise<Connection> {
  return createConnection({
    host: address.host,
    port: address.port,
    socketPath: address.socketPath,
    user: address.user,
    password: address.password,
    database,
    timezone: '+00:00',
    collation: 'utf8mb4_general_ci',
    ...more,
  });
}
