import { describe, expect, it } from 'vitest';
import { create } from './write/create';
import { edit } from './write/edit';
import { SomeRefused } from './view/errors';
import { remove } from './write/remove';
import { several } from './write/several';
import { why } from './review/why';
import { whyChange, whyCreate } from './review/why-write';
import { plain, source, client, agent, desk, as, row, fault, sums, changes, withWrittenTables } from './writes.fixture';

withWrittenTables();

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
