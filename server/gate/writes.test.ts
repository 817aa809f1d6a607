import type { Ceiling } from '../../core/definition/ceilings';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { visitorPerson } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { readDefinition } from '../../core/definition/read';
import type { Catalogue } from '../../core/table/catalogue';
import { MariadbSource } from '../sources/mariadb';
import { create } from './write/create';
import { edit } from './write/edit';
import { SomeRefused } from './view/errors';
import { list } from './read/list';
import { read } from './read/read';
import { remove } from './write/remove';
import { several } from './write/several';
import type { Visit } from './view/visit';
import { why } from './review/why';
import { whyChange, whyCreate } from './review/why-write';

/**
 * Every kind of write under every kind of rule, on a small agency's cases; what is in the tables is read with plain
 * SQL.
 */
let plain: Connection;
let source: MariadbSource;
let catalogue: Catalogue;
const when = (text: string) => parseCondition(text).condition;

const definition: PortalDefinition = readDefinition({
  ...emptyDefinition({ slug: 'writes', name: 'Writes', timeZone: 'Europe/London', colour: '#1f5f85' }, 'writes'),
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

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'writes');
  for (const statement of [
    'CREATE TABLE clients (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, email VARCHAR(80), ' +
      'tenant INT)',
    'CREATE TABLE agents (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, email VARCHAR(80), tenant INT)',
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
  source = new MariadbSource(inject('database'), 'writes');
  catalogue = await source.catalogue();
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const client = (id: number): Person => ({
  kind: 'member',
  id: 100 + id,
  email: `c${id}@example.org`,
  organisation: null,
  roles: ['client'],
  rows: { clients: { id, tenant: id === 3 ? 2 : 1 } },
});

const agent = (id: number): Person => ({
  kind: 'member',
  id: 200 + id,
  email: `a${id}@example.org`,
  organisation: null,
  roles: ['agent'],
  rows: { agents: { id, tenant: id === 3 ? 2 : 1 } },
});

const desk: Person = { kind: 'member', id: 300, email: 'd@example.org', organisation: null, roles: ['desk'], rows: {} };

const as = (person: Person, changed: Partial<PortalDefinition> = {}, known = catalogue): Visit => ({
  definition: { ...definition, ...changed },
  catalogue: known,
  person,
  moment: new Date('2026-11-23T12:00:00Z'),
});

const row = async (id: number | string) =>
  (await plain.query<Record<string, unknown>[]>('SELECT * FROM cases WHERE id = ?', [id]))[0];

const fault = async (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: Error & { fields?: object }) => [error.constructor.name, error.fields ?? {}],
  );

const sums = async () =>
  (await plain.query<{ Checksum: unknown }[]>('CHECKSUM TABLE cases, requests, replies')).map((each) => each.Checksum);

const changes = (values: Record<string, [unknown, unknown]>) =>
  Object.fromEntries(Object.entries(values).map(([column, [from, to]]) => [column, { from, to }]));

describe('create', () => {
  it('puts in stamps and the first state, whatever is sent; gives the record as its maker sees it', async () => {
    const made = await create(source, as(client(1)), 'cases', { title: 'new', pin: 'ZZ-9999' });
    expect(await row(made.id!)).toMatchObject({
      client_id: 1,
      agent_id: null,
      tenant: 1,
      state: 'draft',
      changed_by: 'c1@example.org',
      title: 'new',
    });
    expect(made.record!.values).toEqual({
      id: Number(made.id),
      client_id: 1,
      title: 'new',
      state: 'draft',
      pin: '••••••99',
    });
    for (const column of ['client_id', 'tenant', 'state', 'id', 'no_such_column'])
      expect(await fault(create(source, as(client(1)), 'cases', { title: 'x', [column]: 2 }))).toEqual([
        'Refused',
        { [column]: "This can't be filled by you." },
      ]);
  });

  it('keeps within keep-in rule and fence, and leaves nothing when refused', async () => {
    const before = await sums();
    // A client without a roster row has no number to stamp, so the record would be nobody's.
    expect(await fault(create(source, as({ ...client(1), rows: {} }), 'cases', { title: 'x' }))).toEqual([
      'Refused',
      {},
    ]);
    expect(await fault(create(source, as(agent(1)), 'cases', { client_id: 3, title: 'other tenant' }))).toEqual([
      'InvalidValues',
      { client_id: 'There is no such record. Choose another.' },
    ]);
    expect(await fault(create(source, as(client(1)), 'cases', { title: 'x'.repeat(41) }))).toEqual([
      'InvalidValues',
      { title: 'This has 41 characters; 40 fit. Shorten it.' },
    ]);
    expect(await fault(create(source, as(desk), 'cases', { title: 'x' }))).toEqual(['NotFound', {}]);
    expect(await fault(create(source, as(client(1)), 'replies', { case_id: 1 }))).toEqual(['NotFound', {}]);
    expect(await sums()).toEqual(before);
  });

  it('tries each role with its own stamps', async () => {
    const both: Person = { ...agent(1), roles: ['client', 'agent'], rows: { ...agent(1).rows, ...client(2).rows } };
    const own = await create(source, as(both), 'cases', { title: 'as client', pin: 'QQ-1' });
    const others = await create(source, as(both), 'cases', { title: 'as agent', client_id: 1 });
    expect([await row(own.id!), await row(others.id!)]).toMatchObject([
      { client_id: 2, agent_id: null },
      { client_id: 1, agent_id: 1 },
    ]);
    expect(await fault(create(source, as(both), 'cases', { client_id: 1, pin: 'RR-1' }))).toEqual([
      'Refused',
      { client_id: "This can't be filled by you.", pin: "This can't be filled by you." },
    ]);
  });

  it('lets a visitor add and tells them nothing of what is there', async () => {
    const visitor = visitorPerson(definition);
    expect(visitor.roles).toEqual(['public']);
    expect(await create(source, as(visitor), 'requests', { name: 'Ann', message: 'hello' })).toEqual({
      id: null,
      record: null,
    });
    expect(await fault(create(source, as(visitor), 'requests', { message: 'no name' }))).toEqual([
      'InvalidValues',
      { name: 'This needs a value.' },
    ]);
    expect(
      await fault(
        list(source, as(visitor), 'requests', {
          columns: [],
          sort: [],
          where: [],
          search: '',
          after: null,
          before: null,
          size: 5,
        }),
      ),
    ).toEqual(['NotFound', {}]);
  });
});

describe('masked cells', () => {
  it('can be replaced unseen where that is allowed; the mask sent back changes nothing', async () => {
    const before = await read(source, as(client(1)), 'cases', '1');
    expect([before.editable, before.replaceable, before.values.pin]).toEqual([['title'], ['pin'], '••••••11']);
    await edit(
      source,
      as(client(1)),
      'cases',
      '1',
      changes({ title: ['leak', 'big leak'], pin: ['••••••11', '••••••11'] }),
    );
    expect(await row(1)).toMatchObject({ title: 'big leak', pin: 'AA-1111' });
    expect(await fault(edit(source, as(client(1)), 'cases', '1', changes({ pin: ['••••••77', 'NEW-55'] })))).toEqual([
      'Conflict',
      { pin: { was: '••••••77', now: '••••••11', yours: 'NEW-55' } },
    ]);
    const after = await edit(source, as(client(1)), 'cases', '1', changes({ pin: ['••••••11', 'NEW-55'] }));
    expect([after!.values.pin, (await row(1))!.pin]).toEqual(['••••••55', 'NEW-55']);
    expect((await read(source, as(agent(2)), 'cases', '1')).values.pin).toBe('NEW-55');
    expect((await read(source, as(agent(1)), 'cases', '1')).values.pin).toBe('••••••55');
    // That a value is taken is told, whose it is not.
    expect(await fault(edit(source, as(client(1)), 'cases', '1', changes({ pin: ['••••••55', 'DD-4444'] })))).toEqual([
      'InvalidValues',
      { pin: 'This value is already taken. Choose another.' },
    ]);
  });
});

describe('moves', () => {
  it('are the only way to another state', async () => {
    expect((await read(source, as(client(1)), 'cases', '1')).moves).toEqual([
      { id: 'send', name: 'Send', to: 'open', needs: ['title'] },
    ]);
    expect(await fault(edit(source, as(client(1)), 'cases', '1', changes({ state: ['draft', 'closed'] })))).toEqual([
      'Refused',
      { state: "This can't be changed by you." },
    ]);
    expect(await fault(edit(source, as(agent(1)), 'cases', '1', changes({ state: ['draft', 'open'] })))).toEqual([
      'Refused',
      { state: "This can't be changed by you." },
    ]);
    expect(await fault(edit(source, as(client(1)), 'cases', '2', changes({ state: ['draft', 'open'] })))).toBe('done');
    await edit(source, as(client(1)), 'cases', '1', changes({ state: ['draft', 'open'] }));
    expect(await row(1)).toMatchObject({ state: 'open', changed_by: 'c1@example.org' });
  });

  it('ask for what they need, filled before or with them', async () => {
    const una = as(agent(1));
    expect(await fault(edit(source, una, 'cases', '2', changes({ state: ['open', 'closed'] })))).toEqual([
      'InvalidValues',
      { closed_on: 'Fill this in first.', note: 'Fill this in first.' },
    ]);
    expect((await row(2))!.state).toBe('open');
    await edit(
      source,
      una,
      'cases',
      '2',
      changes({ state: ['open', 'closed'], note: [null, 'mended'], closed_on: [null, '2026-11-23'] }),
    );
    expect(await row(2)).toMatchObject({ state: 'closed', note: 'mended', changed_by: 'a1@example.org' });
    // Case 1 is seen by the agent but not hers to close.
    expect((await read(source, una, 'cases', '1')).moves).toEqual([]);
  });
});

describe('edits', () => {
  it('keep a record within the keep-in rule and the fence', async () => {
    const una = as(agent(1));
    expect(await fault(edit(source, una, 'cases', '3', changes({ agent_id: [1, 2] })))).toEqual([
      'InvalidValues',
      { agent_id: 'There is no such record. Choose another.' },
    ]);
    const seesAgents = {
      access: {
        ...definition.access,
        agents: { agent: { see: { where: 'every row' as const, columns: ['id', 'name'] } } },
      },
    };
    expect(await fault(edit(source, as(agent(1), seesAgents), 'cases', '3', changes({ agent_id: [1, 2] })))).toEqual([
      'Refused',
      {},
    ]);
    expect(await fault(edit(source, as(desk), 'cases', '3', changes({ tenant: [1, 2] })))).toBe('done');
    expect(await fault(edit(source, una, 'cases', '3', changes({ note: [null, 'x'] })))).toEqual(['NotFound', {}]);
    expect(await fault(edit(source, as(desk), 'cases', '3', changes({ tenant: [2, 1] })))).toBe('done');
  });

  it('obey a ceiling above every role', async () => {
    const under = (ceiling: Ceiling): Catalogue => ({
      ...catalogue,
      tables: catalogue.tables.map((table) => (table.name === 'cases' ? { ...table, ceiling } : table)),
    });
    const closed = under({ columns: { note: 'read', title: 'nothing' }, delete: false, where: when('tenant = 1') });
    const record = await read(source, as(desk, {}, closed), 'cases', '3');
    expect([Object.keys(record.values), record.editable, record.deletable]).toEqual([
      ['id', 'client_id', 'tenant', 'note'],
      ['tenant'],
      false,
    ]);
    expect(await fault(read(source, as(desk, {}, closed), 'cases', '4'))).toEqual(['NotFound', {}]);
    expect(await fault(edit(source, as(desk, {}, closed), 'cases', '3', changes({ tenant: [1, 2] })))).toEqual([
      'Refused',
      {},
    ]);
    expect(await fault(create(source, as(client(1), {}, under({ create: false })), 'cases', { title: 'x' }))).toEqual([
      'NotFound',
      {},
    ]);
  });
});

describe('delete', () => {
  it('needs the record in view and a delete filter that holds, and minds what was seen', async () => {
    const made = await create(source, as(client(1)), 'cases', { title: 'short lived' });
    const id = made.id!;
    expect(await fault(remove(source, as(client(2)), 'cases', id))).toEqual(['NotFound', {}]);
    expect(await fault(remove(source, as(agent(1)), 'cases', id))).toEqual(['Refused', {}]);
    expect(await fault(remove(source, as(client(1)), 'cases', '1'))).toEqual(['Refused', {}]);
    await plain.query('UPDATE cases SET title = ? WHERE id = ?', ['changed', id]);
    expect(await fault(remove(source, as(client(1)), 'cases', id, { title: 'short lived' }))).toEqual([
      'Conflict',
      { title: { was: 'short lived', now: 'changed', yours: null } },
    ]);
    expect(await fault(remove(source, as(client(1)), 'cases', id, { title: 'changed', pin: null }))).toBe('done');
    expect(await row(id)).toBeUndefined();
    expect(await fault(remove(source, as(desk), 'cases', '1'))).toEqual(['Refused', {}]);
  });
});

describe('several at once', () => {
  it('are done all or not at all, and every fault is told', async () => {
    const before = await sums();
    const writes = [
      { create: { title: 'one' } },
      { create: { title: 'x'.repeat(50) } },
      { edit: '4', changes: changes({ title: ['well', 'x'] }) },
      { delete: '3' },
    ];
    const refused = (await several(source, as(client(1)), 'cases', writes).catch(
      (error: unknown) => error,
    )) as SomeRefused;
    expect(refused).toBeInstanceOf(SomeRefused);
    expect(refused.outcomes.map((outcome) => (outcome.done ? 'done' : outcome.error.constructor.name))).toEqual([
      'done',
      'InvalidValues',
      'NotFound',
      'NotFound',
    ]);
    expect(await sums()).toEqual(before);
  });

  it('have an outcome each when asked so', async () => {
    const outcomes = await several(
      source,
      as(client(1)),
      'cases',
      [
        { create: { title: 'two' } },
        { edit: '4', changes: changes({ title: ['well', 'x'] }) },
        { create: { title: 'three' } },
      ],
      'each by itself',
    );
    expect(outcomes.map((outcome) => outcome.done)).toEqual([true, false, true]);
    expect(
      Number(
        (await plain.query<{ n: number }[]>("SELECT COUNT(*) n FROM cases WHERE title IN ('two', 'three')"))[0]!.n,
      ),
    ).toBe(2);
  });
});

describe('a trial', () => {
  it('says what would happen and changes nothing', async () => {
    const before = await sums();
    const trial = { trial: true };
    expect((await create(source, as(client(1)), 'cases', { title: 'tried' }, trial)).record!.values.title).toBe(
      'tried',
    );
    expect(
      (await edit(source, as(agent(1)), 'cases', '3', changes({ note: [null, 'tried'] }), trial))!.values.note,
    ).toBe('tried');
    expect(await fault(edit(source, as(agent(3)), 'cases', '3', changes({ note: [null, 'x'] }), trial))).toEqual([
      'NotFound',
      {},
    ]);
    await remove(source, as(desk), 'cases', '5', {}, trial);
    expect(
      (
        await several(
          source,
          as(client(1)),
          'cases',
          [{ create: { title: 'a' } }, { create: { title: 'b' } }],
          'all or nothing',
          trial,
        )
      ).every((outcome) => outcome.done),
    ).toBe(true);
    expect(await sums()).toEqual(before);
  });
});

describe('two at once', () => {
  it('never both take the last step', async () => {
    await plain.query("INSERT INTO cases (id, client_id, tenant, title, state) VALUES (900, 1, 1, 'race', 'draft')");
    const outcomes = await Promise.all(
      Array.from({ length: 6 }, (_, i) =>
        fault(
          i % 2
            ? edit(source, as(client(1)), 'cases', '900', changes({ state: ['draft', 'open'] }))
            : remove(source, as(client(1)), 'cases', '900'),
        ),
      ),
    );
    const done = outcomes.filter((outcome) => outcome === 'done').length;
    const left = await row(900);
    // Either the case went, and everyone after finds nothing; or it was sent, and then it can't be deleted.
    expect(
      left === undefined ? done === 1 : left.state === 'open' && outcomes.some((outcome) => outcome === 'done'),
    ).toBe(true);
  });
});

describe('why', () => {
  it('names fence, move, mask and what each role may do, with the values compared', async () => {
    const answer = await why(source, as(agent(3)), 'cases', '3', 'pin');
    const [role] = answer.roles;
    expect([answer.inView, answer.cell, role!.see!.holds]).toEqual([false, { level: 'hidden' }, false]);
    expect(role!.see!.parts!.map((part) => [part.origin, part.holds])).toEqual([
      [{ kind: 'filter', of: 'see' }, false],
      [{ kind: 'fence', id: 'tenant' }, false],
    ]);
    expect(role!.see!.parts![1]!.trace.parts!.map((part) => part.values)).toEqual([
      [1, 2],
      [1, null],
    ]);
    const close = await why(source, as(agent(1)), 'cases', '3', null);
    expect([close.inView, close.editable, close.deletable, close.moves]).toEqual([true, true, false, ['close']]);
    expect(close.roles[0]!.moves).toMatchObject([
      { move: 'close', fromHere: true, where: { holds: true }, missing: ['closed_on', 'note'] },
    ]);
    // A refused change and a refused record: the rule that stopped it, on what it would have become.
    const before = await sums();
    const change = await whyChange(source, as(agent(1)), 'cases', '3', { agent_id: 2, title: 'x' });
    expect(change.after).toMatchObject([
      {
        role: 'agent',
        mayFill: { agent_id: true, title: false },
        keepIn: {
          holds: false,
          parts: [
            { origin: { kind: 'keep-in', of: 'edit' }, holds: false },
            { origin: { kind: 'fence', id: 'tenant' }, holds: true },
          ],
        },
      },
    ]);
    expect(change.after[0]!.keepIn.parts![0]!.trace.parts![0]!.values).toEqual([2, 1]);
    const made = await whyCreate(source, as({ ...client(1), rows: {} }), 'cases', { title: 'x' });
    expect(made.after).toMatchObject([{ role: 'client', mayFill: { title: true }, keepIn: { holds: false } }]);
    expect(await sums()).toEqual(before);
    expect((await why(source, as(agent(2)), 'cases', '5', 'pin')).roles[0]!.masks).toMatchObject([
      { id: 'pin', outcome: 'member excepted' },
    ]);
  });
});
