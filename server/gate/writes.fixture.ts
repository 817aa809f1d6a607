import { readDefinition } from '../../sections/definition';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { afterAll, beforeAll, inject } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema, schemaOfWorker } from '../../test/tables';
import type { Person } from '../../core/access/person';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import type { Visit } from './view/visit';

const schema = schemaOfWorker('writes');

export const when = (text: string) => parseCondition(text).condition;

export const definition: PortalDefinition = readDefinition({
  ...emptyDefinition({ slug: 'writes', name: 'Writes', timeZone: 'Europe/London', colour: '#1f5f85' }, schema),
  roles: [
    { id: 'client', name: 'Client' },
    { id: 'agent', name: 'Agent' },
    { id: 'desk', name: 'Desk' },
    { id: 'public', name: 'Public', for: 'visitors' },
  ],
  rosters: [
    { table: 'clients', name: 'name', email: 'email', role: 'client' },
    { table: 'agents', name: 'name', email: 'email', role: 'agent' },
  ],
  access: {
    clients: {
      agent: { see: { where: when('tenant = :member.agents.tenant'), columns: ['id', 'name'] } },
      client: { see: { where: when('id = :member.clients.id'), columns: ['id', 'name'] } },
    },
    cases: {
      client: {
        see: { where: when('client_id = :member.clients.id'), columns: ['id', 'client_id', 'title', 'state', 'pin'] },
        create: { columns: ['title', 'pin'] },
        edit: {
          where: when("client_id = :member.clients.id AND state = 'draft'"),
          columns: ['title', 'pin'],
          unseen: ['pin'],
        },
        delete: { where: when("client_id = :member.clients.id AND state = 'draft'") },
      },
      agent: {
        see: {
          where: when('agent_id = :member.agents.id OR agent_id IS NULL'),
          columns: ['id', 'client_id', 'agent_id', 'title', 'state', 'note', 'closed_on', 'pin'],
        },
        create: { columns: ['client_id', 'title'], keepIn: when('agent_id = :member.agents.id') },
        edit: {
          where: 'as seen',
          columns: ['agent_id', 'note', 'closed_on', 'client_id'],
          keepIn: when('agent_id = :member.agents.id OR agent_id IS NULL'),
        },
      },
      desk: {
        see: { where: 'every row', columns: ['id', 'client_id', 'title', 'tenant', 'note'] },
        edit: { where: 'every row', columns: ['tenant', 'note'] },
        delete: { where: 'as seen' },
      },
    },
    requests: { public: { create: { columns: ['name', 'message'] } } },
  },
  masks: [
    {
      id: 'pin',
      table: 'cases',
      column: 'pin',
      mask: { style: 'keep last', count: 2 },
      to: 'everyone',
      exceptRoles: [],
      exceptMembers: ['a2@example.org'],
    },
  ],
  fences: [
    {
      id: 'tenant',
      table: 'cases',
      where: when('tenant = :member.agents.tenant OR tenant = :member.clients.tenant'),
      exceptRoles: ['desk'],
    },
  ],
  stamps: [
    {
      id: 'owner',
      table: 'cases',
      column: 'client_id',
      on: 'create',
      value: { kind: 'member', fact: ['clients', 'id'] },
      to: ['client'],
    },
    {
      id: 'maker',
      table: 'cases',
      column: 'agent_id',
      on: 'create',
      value: { kind: 'member', fact: ['agents', 'id'] },
      to: ['agent'],
    },
    {
      id: 'tenant-client',
      table: 'cases',
      column: 'tenant',
      on: 'create',
      value: { kind: 'member', fact: ['clients', 'tenant'] },
      to: ['client'],
    },
    {
      id: 'tenant-agent',
      table: 'cases',
      column: 'tenant',
      on: 'create',
      value: { kind: 'member', fact: ['agents', 'tenant'] },
      to: ['agent'],
    },
    {
      id: 'changed',
      table: 'cases',
      column: 'changed_by',
      on: 'create and change',
      value: { kind: 'member', fact: ['email'] },
      to: 'everyone',
    },
  ],
  lifecycles: [
    {
      table: 'cases',
      column: 'state',
      start: 'draft',
      moves: [
        { id: 'send', name: 'Send', from: ['draft'], to: 'open', roles: ['client'], needs: ['title'] },
        {
          id: 'close',
          name: 'Close',
          from: ['open'],
          to: 'closed',
          roles: ['agent'],
          where: when('agent_id = :member.agents.id'),
          needs: ['closed_on', 'note'],
        },
      ],
    },
  ],
});

/**
 * Every kind of write under every kind of rule, on a small agency's cases; what is in the tables is read with plain
 * SQL.
 */
export let plain: Connection;

export let source: MariadbSource;

export let catalogue: Catalogue;

/** To be called once in each file that uses these: several files may share one process. */
export function withWrittenTables(): void {
  beforeAll(async () => {
    plain = await freshSchema(inject('database'), schema);
    for (const statement of [
      'CREATE TABLE clients (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, email VARCHAR(80), ' +
        'tenant INT)',
      'CREATE TABLE agents (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, email VARCHAR(80), ' +
        'tenant INT)',
      `CREATE TABLE cases (id INT AUTO_INCREMENT PRIMARY KEY, client_id INT NULL, agent_id INT NULL, tenant INT NULL,
        title VARCHAR(40) NOT NULL DEFAULT '', state ENUM('draft','open','closed') NOT NULL DEFAULT 'closed', pin
        VARCHAR(20) NULL UNIQUE, note VARCHAR(80) NULL,
        closed_on DATE NULL, changed_by VARCHAR(80) NULL, FOREIGN KEY (client_id) REFERENCES clients (id), FOREIGN
        KEY (agent_id) REFERENCES agents (id))`,
      'CREATE TABLE replies (id INT AUTO_INCREMENT PRIMARY KEY, case_id INT NOT NULL, FOREIGN KEY (case_id) ' +
        'REFERENCES cases (id))',
      'CREATE TABLE requests (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, message VARCHAR(200) ' +
        'NULL, seen BOOLEAN NOT NULL DEFAULT FALSE)',
      "INSERT INTO clients VALUES (1, 'Ada', 'c1@example.org', 1), (2, 'Bo', 'c2@example.org', 1), (3, 'Cy', " +
        "'c3@example.org', 2)",
      "INSERT INTO agents VALUES (1, 'Una', 'a1@example.org', 1), (2, 'Vic', 'a2@example.org', 1), (3, 'Wim', " +
        "'a3@example.org', 2)",
      `INSERT INTO cases (id, client_id, agent_id, tenant, title, state, pin) VALUES (1, 1, NULL, 1, 'leak', ` +
        `'draft', 'AA-1111'), (2, 1, 1, 1, 'roof', 'open', 'BB-2222'), (3, 2, 1, 1, 'door', 'open', 'CC-3333'), ` +
        `(4, 3, NULL, 2, 'well', 'draft', 'DD-4444'), (5, 2, 2, 1, 'gate', 'draft', NULL)`,
      'INSERT INTO replies (case_id) VALUES (1)',
    ])
      await plain.query(statement);
    source = new MariadbSource(inject('database'), schema);
    catalogue = await source.catalogue();
  });

  afterAll(async () => {
    await source?.close();
    await plain?.end();
  });
}

export const client = (id: number): Person => ({
  kind: 'member',
  id: 100 + id,
  email: `c${id}@example.org`,
  organisation: null,
  roles: ['client'],
  rows: { clients: { id, tenant: id === 3 ? 2 : 1 } },
});

export const agent = (id: number): Person => ({
  kind: 'member',
  id: 200 + id,
  email: `a${id}@example.org`,
  organisation: null,
  roles: ['agent'],
  rows: { agents: { id, tenant: id === 3 ? 2 : 1 } },
});

export const desk: Person = {
  kind: 'member',
  id: 300,
  email: 'd@example.org',
  organisation: null,
  roles: ['desk'],
  rows: {},
};

export const as = (person: Person, changed: Partial<PortalDefinition> = {}, known = catalogue): Visit => ({
  definition: { ...definition, ...changed },
  catalogue: known,
  person,
  moment: new Date('2026-11-23T12:00:00Z'),
});

export const row = async (id: number | string) =>
  (await plain.query<Record<string, unknown>[]>('SELECT * FROM cases WHERE id = ?', [id]))[0];

export const fault = async (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: Error & { fields?: object }) => [error.constructor.name, error.fields ?? {}],
  );

export const sums = async () =>
  (await plain.query<{ Checksum: unknown }[]>('CHECKSUM TABLE cases, requests, replies')).map((each) => each.Checksum);

export const changes = (values: Record<string, [unknown, unknown]>) =>
  Object.fromEntries(Object.entries(values).map(([column, [from, to]]) => [column, { from, to }]));
