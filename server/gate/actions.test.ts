import { beforeEach, describe, expect, it } from 'vitest';
import type { Action, StepValue } from '../../core/definition/action';
import { readDefinition } from '../../sections/definition';
import { read } from './read/read';
import {
  agent,
  as,
  client,
  definition,
  desk,
  fault,
  plain,
  row,
  source,
  sums,
  when,
  withWrittenTables,
} from './writes.fixture';
import { act, type Press } from './write/act';

withWrittenTables();

const text = (value: string): StepValue => ({ kind: 'text', text: value });
const plainAction = { table: 'cases', asks: [], steps: [] };

const actions: Action[] = [
  {
    ...plainAction,
    id: 'shut',
    name: 'Shut it',
    roles: ['agent'],
    where: when('agent_id = :member.agents.id'),
    asks: [{ id: 'why', table: 'cases', column: 'note', required: true, label: 'Why' }],
    steps: [
      { kind: 'set', values: { note: { kind: 'asked', ask: 'why' }, closed_on: { kind: 'clock', what: 'today' } } },
      { kind: 'move', move: 'close' },
    ],
  },
  {
    ...plainAction,
    id: 'later',
    name: 'Put off by 14 days',
    roles: ['agent'],
    steps: [
      {
        kind: 'set',
        values: {
          closed_on: {
            kind: 'shifted',
            of: { kind: 'column', path: ['closed_on'] },
            count: 14,
            unit: 'DAY',
          },
        },
      },
    ],
  },
  {
    ...plainAction,
    id: 'reply',
    name: 'Reply',
    roles: ['client'],
    steps: [{ kind: 'make', table: 'replies', values: { case_id: { kind: 'this' } } }],
  },
  {
    ...plainAction,
    id: 'away',
    name: 'Give it away',
    roles: ['client'],
    steps: [
      { kind: 'make', table: 'replies', values: { case_id: { kind: 'this' } } },
      { kind: 'set', values: { client_id: { kind: 'number', digits: '2' } } },
    ],
  },
  {
    ...plainAction,
    id: 'tenant',
    name: 'Move to the other house',
    roles: ['agent'],
    keepIn: 'every row',
    steps: [{ kind: 'set', values: { tenant: { kind: 'number', digits: '2' } } }],
  },
  {
    ...plainAction,
    id: 'mine',
    name: 'Take it over',
    roles: ['client'],
    where: when('agent_id IS NOT NULL'),
    steps: [{ kind: 'set', values: { title: text('taken') } }],
  },
  {
    ...plainAction,
    id: 'unseen',
    name: 'Copy the note',
    roles: ['client'],
    steps: [{ kind: 'set', values: { title: { kind: 'column', path: ['note'] } } }],
  },
  {
    ...plainAction,
    id: 'elsewhere',
    name: 'Give it to whom is written',
    roles: ['agent'],
    keepIn: 'every row',
    asks: [{ id: 'who', table: 'cases', column: 'tenant' }],
    steps: [{ kind: 'set', values: { client_id: { kind: 'asked', ask: 'who' } } }],
  },
  { ...plainAction, id: 'key', name: 'Key', roles: ['agent'], steps: [{ kind: 'set', values: { id: text('9') } }] },
  {
    ...plainAction,
    id: 'state',
    name: 'State',
    roles: ['agent'],
    steps: [{ kind: 'set', values: { state: text('open') } }],
  },
];

const withActions = readDefinition({ ...definition, actions });
const press = (person: Parameters<typeof as>[0], id: number, action: string, sent: Partial<Press> = {}, changed = {}) =>
  act(source, as(person, { ...withActions, ...changed }), 'cases', String(id), action, { asked: {}, ...sent });
const offered = async (person: Parameters<typeof as>[0], id: number) =>
  (await read(source, as(person, withActions), 'cases', String(id))).actions;

beforeEach(async () => {
  await plain.query(
    "UPDATE cases SET note = NULL, closed_on = NULL, state = 'open', title = 'roof', client_id = 1, " +
      'tenant = 1, agent_id = 1 WHERE id = 2',
  );
});

describe('actions', () => {
  it('write what their role could not edit, in one go with the move, and say faults by what was asked', async () => {
    expect(await fault(press(agent(1), 2, 'shut'))).toEqual(['InvalidValues', { why: 'This needs a value.' }]);
    expect(await fault(press(agent(1), 2, 'shut', { asked: { why: 'x'.repeat(90) } }))).toMatchObject([
      'InvalidValues',
      { why: expect.any(String) as string },
    ]);
    expect(await row(2)).toMatchObject({ state: 'open', note: null, closed_on: null });
    const { record, made } = await press(agent(1), 2, 'shut', { asked: { why: 'mended' } });
    expect([record!.values.state, record!.values.note, made]).toEqual(['closed', 'mended', []]);
    expect(await row(2)).toMatchObject({ state: 'closed', note: 'mended', changed_by: 'a1@example.org' });
    const refused = await fault(press(agent(1), 2, 'shut', { asked: { why: 'again' } }));
    expect(refused).toEqual(['Refused', {}]);
  });

  it('are of their roles, of records in view and of those for which their condition holds', async () => {
    expect(await fault(press(client(1), 2, 'shut', { asked: { why: 'x' } }))).toEqual(['NotFound', {}]);
    expect(await fault(press(agent(3), 2, 'shut', { asked: { why: 'x' } }))).toEqual(['NotFound', {}]);
    expect(await fault(press(agent(2), 1, 'later'))).toEqual('done');
    expect(await fault(press(agent(2), 1, 'shut', { asked: { why: 'x' } }))).toEqual(['Refused', {}]);
    expect(await fault(press(desk, 2, 'shut', { asked: { why: 'x' } }))).toEqual(['NotFound', {}]);
    expect(await fault(press(agent(1), 2, 'none'))).toEqual(['NotFound', {}]);
  });

  it('are offered where they can be done, and everywhere where that would tell what is not shown', async () => {
    expect(await offered(agent(1), 2)).toEqual(['shut', 'later', 'tenant', 'elsewhere']);
    expect(await offered(agent(2), 1)).toEqual(['later', 'tenant', 'elsewhere']);
    // Clients don't see who has a case, so the button tells nothing of it.
    expect([await offered(client(1), 1), await offered(client(1), 2)]).toEqual([
      ['reply', 'away', 'mine', 'unseen'],
      ['reply', 'away', 'mine', 'unseen'],
    ]);
    expect(await fault(press(client(1), 1, 'mine'))).toEqual(['Refused', {}]);
    expect(await fault(press(client(1), 2, 'mine'))).toEqual('done');
  });

  it('keep the record theirs and within fences, all of their steps or none', async () => {
    const before = await sums();
    expect(await fault(press(client(1), 2, 'away'))).toEqual(['Refused', {}]);
    expect(await fault(press(agent(1), 2, 'tenant'))).toEqual(['Refused', {}]);
    expect(await sums()).toEqual(before);
    // The house is no fence to those who are exempt from it.
    const [fence] = withActions.fences!;
    expect(await fault(press(agent(1), 2, 'tenant', {}, { fences: [{ ...fence!, exceptRoles: ['agent'] }] }))).toEqual(
      'done',
    );
    expect(await row(2)).toMatchObject({ tenant: 2 });
  });

  it('make records that their role could not make, and hold what is made to the fences there', async () => {
    const { made } = await press(client(1), 2, 'reply');
    expect(made).toEqual([{ table: 'replies', id: null }]);
    const count = async () =>
      Number((await plain.query<{ n: bigint }[]>('SELECT COUNT(*) n FROM replies WHERE case_id = 2'))[0]!.n);
    const had = await count();
    expect(had).toBeGreaterThan(0);
    const fences = [{ id: 'none', table: 'replies', where: when('case_id = 1'), exceptRoles: [] }];
    expect(await fault(press(client(1), 2, 'reply', {}, { fences }))).toEqual(['Refused', {}]);
    expect(await count()).toBe(had);
  });

  it('go by what is shown alone, write no key and no state, and nothing that changed since it was seen', async () => {
    expect(await fault(press(client(1), 2, 'unseen'))).toEqual(['Refused', {}]);
    expect(await fault(press(agent(1), 2, 'key'))).toEqual(['NotFound', {}]);
    expect(await fault(press(agent(1), 2, 'state'))).toEqual(['NotFound', {}]);
    await plain.query("UPDATE cases SET closed_on = '2026-12-01' WHERE id = 2");
    const seen = { closed_on: '2026-12-01' };
    expect(await fault(press(agent(1), 2, 'later', { seen }))).toBe('done');
    expect(await fault(press(agent(1), 2, 'later', { seen }))).toEqual([
      'Conflict',
      { closed_on: { was: '2026-12-01', now: '2026-12-15', yours: null } },
    ]);
    expect(await fault(press(agent(1), 2, 'later', { asked: { who: 1 } }))).toEqual(['BadQuestion', {}]);
  });

  it('lead to what is seen alone, also where a value was asked for another column than it is put into', async () => {
    // Una sees the clients of her own house, and not Cy.
    const give = (to: number) => fault(press(agent(1), 2, 'elsewhere', { asked: { who: to } }));
    expect(await give(3)).toEqual(['InvalidValues', { who: 'There is no such record. Choose another.' }]);
    expect(await give(999)).toEqual(['InvalidValues', { who: 'There is no such record. Choose another.' }]);
    expect(await give(2)).toBe('done');
  });

  it('tried are taken back', async () => {
    const before = await sums();
    const visit = as(agent(1), withActions);
    const { record } = await act(source, visit, 'cases', '2', 'later', { asked: {} }, { trial: true });
    expect(record).not.toBeNull();
    expect(await sums()).toEqual(before);
  });
});
