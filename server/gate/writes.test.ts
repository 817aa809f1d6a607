import type { Ceiling } from '../../core/definition/ceilings';
import type { Stamp } from '../../core/definition/definition';
import { describe, expect, it } from 'vitest';
import { visitorPerson, type Person } from '../../core/access/person';
import type { Catalogue } from '../../core/table/catalogue';
import { create } from './write/create';
import { edit } from './write/edit';
import { list } from './read/list';
import { read } from './read/read';
import { remove } from './write/remove';
import {
  when,
  definition,
  plain,
  source,
  catalogue,
  client,
  agent,
  desk,
  as,
  row,
  fault,
  sums,
  changes,
  withWrittenTables,
} from './writes.fixture';

withWrittenTables();

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

  it('fills what was left empty with the default of the role that makes it, under its keep-in rule', async () => {
    const visit = as(client(1));
    const given = (id: string, column: string, text: string, to: Stamp['to']): Stamp => ({
      id,
      table: 'cases',
      column,
      on: 'left empty',
      value: { kind: 'text', text },
      to,
    });
    const stamps = [
      given('not-mine', 'title', 'of an agent', ['agent']),
      given('title', 'title', 'untitled', 'everyone'),
      given('later', 'title', 'too late', 'everyone'),
      given('pin', 'pin', 'DEF-1', 'everyone'),
      // A stamp stands above a default.
      given('changed-by', 'changed_by', 'nobody', 'everyone'),
    ];
    const definition = { ...visit.definition, stamps: [...stamps, ...visit.definition.stamps!] };
    const made = async (values: Record<string, unknown>) =>
      row((await create(source, { ...visit, definition }, 'cases', values)).id!);
    expect([
      await made({}),
      await made({ title: '', pin: 'DEF-2' }),
      await made({ title: 'mine', pin: 'DEF-3' }),
    ]).toMatchObject([
      { title: 'untitled', pin: 'DEF-1', changed_by: 'c1@example.org', client_id: 1 },
      { title: 'untitled', pin: 'DEF-2' },
      { title: 'mine', pin: 'DEF-3' },
    ]);
    // The rule asks it of the record as it is then, not of what was sent.
    const strict = structuredClone(definition);
    strict.access.cases!.client!.create!.keepIn = when("title <> 'untitled'");
    const before = await sums();
    expect(await fault(create(source, { ...visit, definition: strict }, 'cases', { pin: 'x' }))).toEqual([
      'Refused',
      {},
    ]);
    expect(await sums()).toEqual(before);
    // What is changed later is left as it was sent.
    const one = await create(source, { ...visit, definition }, 'cases', { title: 'x', pin: 'DEF-4' });
    await edit(source, { ...visit, definition }, 'cases', one.id!, { title: { from: 'x', to: null } }).catch(
      () => null,
    );
    expect((await row(one.id!))!.title).not.toBe('untitled');
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
