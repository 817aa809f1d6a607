import type { Connection } from 'mariadb';
import { afterAll, beforeAll, beforeEach, describe, expect, inject, it } from 'vitest';
import { servicePerson } from '../../core/access/person';
import type { Action, SetOff, TimedAction } from '../../core/definition/action';
import { emptyDefinition, type PortalDefinition } from '../../core/definition/definition';
import { freshSchema } from '../../test/tables';
import { when } from '../../test/wells';
import { MariadbSource } from '../sources/mariadb';
import { act } from './write/act';
import { actOnDue, type DueBatch } from './write/act-on-due';
import type { ImportPlan } from '../../core/table/import-plan';
import { bring, type FileRows } from './import/bring';
import { createCorrectable } from './write/correct';
import { create } from './write/create';
import { edit } from './write/edit';
import { remove } from './write/remove';
import { several } from './write/several';
import type { Leaving } from './view/leaving';
import type { Visit } from './view/visit';

/** What is done by itself when something happens; what the tables hold then is read with plain SQL. */

let plain: Connection;
let source: MariadbSource;

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'follow');
  await plain.query(
    "CREATE TABLE jobs (id INT AUTO_INCREMENT PRIMARY KEY, title VARCHAR(40) NOT NULL, state ENUM('open', 'done') " +
      'NOT NULL, late BOOLEAN NOT NULL DEFAULT FALSE, hours INT NULL, noted INT NOT NULL DEFAULT 0)',
  );
  await plain.query(
    'CREATE TABLE notes (id INT AUTO_INCREMENT PRIMARY KEY, job_id INT NULL, words VARCHAR(40) NOT NULL)',
  );
  source = new MariadbSource(inject('database'), 'follow', 4);
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

beforeEach(async () => {
  await plain.query('TRUNCATE jobs');
  await plain.query('TRUNCATE notes');
  await plain.query("INSERT INTO jobs VALUES (1, 'one', 'open', 0, NULL, 0), (2, 'two', 'open', 0, 9, 0)");
});

const note = (words: string): Action['steps'][number] => ({
  kind: 'make',
  table: 'notes',
  values: { words: { kind: 'text', text: words } },
});

const following = (id: string, on: SetOff, more: Partial<Action> = {}): Action => ({
  id,
  name: id,
  table: 'jobs',
  roles: ['hand'],
  on,
  asks: [],
  steps: [note(id)],
  ...more,
});

const left: Leaving[] = [];

async function visitWith(...actions: Action[]): Promise<Visit> {
  const columns = ['id', 'title', 'state', 'late', 'hours', 'noted'];
  const definition: PortalDefinition = {
    ...emptyDefinition({ slug: 'follow', name: 'Follow', timeZone: 'UTC', colour: '#1f5f85' }, 'follow'),
    roles: [
      { id: 'clerk', name: 'Clerk' },
      { id: 'hand', name: 'Hand', for: 'services' },
    ],
    addresses: [{ id: 'out', name: 'Out', url: 'https://out.example.org/' }],
    actions,
    lifecycles: [
      {
        table: 'jobs',
        column: 'state',
        start: 'open',
        moves: [{ id: 'close', name: 'Close', from: ['open'], to: 'done', needs: [], roles: ['clerk', 'hand'] }],
      } as NonNullable<PortalDefinition['lifecycles']>[number],
    ],
    access: {
      jobs: {
        clerk: {
          see: { where: 'every row', columns },
          create: { columns: ['title', 'hours'] },
          edit: { where: 'as seen', columns: ['title', 'hours'] },
          delete: { where: 'every row' },
        },
        hand: { see: { where: when("title <> 'unseen'"), columns } },
      },
    },
  };
  left.length = 0;
  return {
    definition,
    catalogue: await source.catalogue(),
    person: { kind: 'member', id: 1, email: null, organisation: null, roles: ['clerk'], rows: {} },
    moment: new Date(),
    leaver: () => ({
      hold: (leaving) => {
        left.push(leaving);
        return Promise.resolve(null);
      },
      keep: () => Promise.resolve(),
      drop: () => {
        left.length = 0;
        return Promise.resolve();
      },
    }),
  };
}

const notes = async () =>
  (await plain.query<{ words: string }[]>('SELECT words FROM notes ORDER BY id')).map(({ words }) => words);
const job = async (id: number) =>
  (await plain.query<Record<string, unknown>[]>(`SELECT * FROM jobs WHERE id = ${id}`))[0];
const hours = (to: number | null, from: number | null = null) => ({ hours: { from, to } });

describe('an action that is done by itself', () => {
  it('follows when a record is made, changed so that its condition begins to hold, moved, or deleted', async () => {
    const visit = await visitWith(
      following('made', { what: 'made' }, { where: when("title <> 'quiet'") }),
      following('late', { what: 'changed' }, { where: when('hours > 8') }),
      following('any', { what: 'changed' }),
      following('closed', { what: 'moved', move: 'close' }),
      following('gone', { what: 'deleted' }, { where: when('hours > 8') }),
    );
    await create(source, visit, 'jobs', { title: 'three' });
    await create(source, visit, 'jobs', { title: 'quiet' });
    expect(await notes()).toEqual(['made']);
    await edit(source, visit, 'jobs', '1', hours(5));
    expect(await notes()).toEqual(['made', 'any']);
    await edit(source, visit, 'jobs', '1', hours(10, 5));
    await edit(source, visit, 'jobs', '1', hours(11, 10));
    // It held already the second time.
    expect(await notes()).toEqual(['made', 'any', 'late', 'any', 'any']);
    await edit(source, visit, 'jobs', '1', { state: { from: 'open', to: 'done' } });
    expect((await notes()).slice(5)).toEqual(['any', 'closed']);
    await remove(source, visit, 'jobs', '3');
    await remove(source, visit, 'jobs', '1');
    expect((await notes()).slice(7)).toEqual(['gone']);
  });

  it('does it as its service, which nobody who sets it off has to be, and only with what that sees', async () => {
    const set = { late: { kind: 'boolean', value: true }, noted: { kind: 'number', digits: '7' } } as const;
    const visit = await visitWith(following('set', { what: 'made' }, { steps: [{ kind: 'set', values: set }] }));
    const { id } = await create(source, visit, 'jobs', { title: 'three' });
    expect(await job(Number(id))).toMatchObject({ late: 1, noted: 7 });
    const unseen = await create(source, visit, 'jobs', { title: 'unseen' });
    expect(await job(Number(unseen.id))).toMatchObject({ late: 0, noted: 0 });
    // It is no button of anybody's, not of the service's either.
    const pressed = act(
      source,
      { ...visit, person: { ...visit.person, roles: ['clerk', 'hand'] } },
      'jobs',
      '1',
      'set',
      {
        asked: {},
      },
    );
    await expect(pressed).rejects.toThrow('There is no such action');
  });

  it('follows of what a form makes, and of what is brought, only where that is said', async () => {
    const visit = await visitWith(
      following('any', { what: 'made' }),
      following('sent', { what: 'made', form: 'asked' }),
      following('brought', { what: 'made', brought: true }, { where: when("title <> 'refused'") }),
      following('late', { what: 'changed', brought: true }, { where: when('hours > 8') }),
    );
    const values = { title: 'three' };
    await createCorrectable(source, visit, 'jobs', values, { by: { form: 'other' } });
    expect((await notes()).splice(0)).toEqual(['any', 'brought']);
    await plain.query('TRUNCATE notes');
    await createCorrectable(source, visit, 'jobs', { title: 'four' }, { by: { form: 'asked' } });
    expect(await notes()).toEqual(['any', 'sent', 'brought']);
    await plain.query('TRUNCATE notes');
    const plan: ImportPlan = {
      table: 'jobs',
      key: 'title',
      columns: [
        { header: 'Title', column: 'title' },
        { header: 'Hours', column: 'hours' },
      ],
      unknown: 'add',
      known: 'change',
      empty: 'keep',
    };
    const rows = [
      ['one', '9'],
      ['two', '7'],
      ['new', '1'],
      ['newer', '12'],
    ];
    async function* file(): AsyncGenerator<FileRows> {
      yield await Promise.resolve({ rows, lines: rows.map((_, i) => i + 2) });
    }
    const told = await bring(source, visit, plan, file, { write: null });
    expect(await notes()).toEqual([]);
    const mode = 'all or nothing' as const;
    const write = { mode, expected: told.digest, beforeKeeping: () => Promise.resolve() };
    await bring(source, visit, plan, file, { write });
    expect(await notes()).toEqual(['late', 'brought', 'brought']);
  });

  it('sets off others, in their order; what sets itself off is stopped, and nothing of it is kept', async () => {
    const count = (digits: string): Action['steps'] => [
      { kind: 'set', values: { noted: { kind: 'number', digits } } },
      note(digits),
    ];
    const chain = await visitWith(
      following('one', { what: 'changed' }, { where: when('hours > 0'), steps: count('1') }),
      following('two', { what: 'changed' }, { where: when('noted = 1'), steps: count('2') }),
      following('three', { what: 'changed' }, { where: when('noted = 2'), steps: count('3') }),
    );
    await edit(source, chain, 'jobs', '1', hours(1));
    expect([await notes(), (await job(1))!.noted]).toEqual([['1', '2', '3'], 3]);
    const loop = await visitWith(following('again', { what: 'changed' }, { steps: [...count('9')] }));
    await expect(edit(source, loop, 'jobs', '2', hours(1, 9))).rejects.toThrow('sets itself off again and again');
    expect([await notes(), await job(2)]).toEqual([['1', '2', '3'], expect.objectContaining({ hours: 9, noted: 0 })]);
  });

  it('that can not be done refuses what set it off, of several only that one, and tells nothing of why', async () => {
    const visit = await visitWith(
      following(
        'breaks',
        { what: 'changed' },
        {
          where: when('hours > 8'),
          keepIn: when('hours < 0'),
          steps: [{ kind: 'set', values: { noted: { kind: 'number', digits: '1' } } }],
        },
      ),
    );
    await expect(edit(source, visit, 'jobs', '1', hours(9))).rejects.toThrow('what must follow of it can');
    const outcomes = await several(
      source,
      visit,
      'jobs',
      [
        { edit: '1', changes: hours(3) },
        { edit: '1', changes: hours(10, 3) },
        { edit: '1', changes: hours(4, 3) },
      ],
      'each by itself',
    );
    expect(outcomes.map(({ done }) => done)).toEqual([true, false, true]);
    expect((await job(1))!.hours).toBe(4);
  });

  it('lets leave what its service sees, once for each, and nothing of what was taken back', async () => {
    const leaves: Action['steps'] = [
      { kind: 'call', address: 'out', values: { title: { kind: 'column', path: ['title'] }, id: { kind: 'this' } } },
      { kind: 'mail', mail: { to: 'role', role: 'clerk' }, subject: '{{title}}', text: '{{hours}}' },
    ];
    const visit = await visitWith(
      following('tell', { what: 'changed' }, { where: when('hours > 8'), steps: leaves }),
      following('bye', { what: 'deleted' }, { steps: leaves }),
    );
    await edit(source, visit, 'jobs', '1', hours(9), { trial: true });
    expect(left).toEqual([]);
    const changes = [
      { edit: '1', changes: hours(9) },
      { edit: '2', changes: { hours: { from: 0, to: 99 } } },
    ];
    await several(source, visit, 'jobs', changes, 'each by itself');
    expect(left).toHaveLength(1);
    expect(left[0]!.calls).toMatchObject([{ values: { title: 'one', id: 1 }, by: 'hand', table: 'jobs', id: '1' }]);
    expect(left[0]!.mails).toMatchObject([{ values: { title: 'one', hours: '9' }, by: 'hand', to: { role: 'clerk' } }]);
    await remove(source, visit, 'jobs', '1');
    expect(left[1]!.calls).toMatchObject([{ values: { title: 'one', id: 1 } }]);
    expect(left[1]!.mails).toMatchObject([{ values: { hours: '9' } }]);
  });
});

describe('an action that is done each day at a time', () => {
  const late = (more: Partial<Action> = {}) =>
    following('late', { what: 'time', at: '06:00' }, { where: when('hours > 8'), ...more }) as TimedAction;
  const asHand = async (action: Action): Promise<Visit> => {
    const visit = await visitWith(action);
    return { ...visit, person: servicePerson(visit.definition, ['hand']) };
  };
  const many = (count: number) =>
    plain.query(
      `INSERT INTO jobs (id, title, state, hours) SELECT seq + 10, IF(seq = 7, 'unseen', 'many'), 'open', ` +
        `IF(seq % 5 = 0, 3, 9) FROM seq_1_to_${count}`,
    );

  it('is done with every record for which it holds, once, in pieces; each by itself', async () => {
    await many(100);
    const action = late({
      keepIn: when('noted < 20'),
      steps: [
        { kind: 'set', values: { noted: { kind: 'column', path: ['hours'] } } },
        note('late'),
        { kind: 'call', address: 'out', values: { id: { kind: 'this' } } },
      ],
    });
    await plain.query('UPDATE jobs SET hours = 30 WHERE id = 13');
    const visit = await asHand(action);
    const told: DueBatch[] = [];
    for (let from: string | null = null, isAny = true; isAny;) {
      const batch: DueBatch = await actOnDue(source, visit, action, {
        from,
        atMost: 30,
        beside: null,
        beforeKeeping: (of) => Promise.resolve(void told.push(of)),
      });
      from = batch.place;
      isAny = from !== null;
    }
    // 80 of the 100, and one of before; one is unseen, and one breaks what must hold afterwards.
    expect(told.map(({ done, refused }) => [done, refused])).toEqual([
      [29, 1],
      [30, 0],
      [20, 0],
    ]);
    expect(told[0]!.why).toContain('would no longer be what must hold');
    expect((await notes()).length).toBe(79);
    const [found] = await plain.query<{ wrong: bigint }[]>(
      "SELECT COUNT(*) wrong FROM jobs WHERE (noted > 0) <> (hours BETWEEN 9 AND 19 AND title <> 'unseen')",
    );
    expect(Number(found!.wrong)).toBe(0);
    expect(left.flatMap(({ calls }) => calls).length).toBe(79);
    expect(await job(13)).toMatchObject({ noted: 0 });
  });

  it('leaves nothing of a piece whose place could not be kept, and is no button and follows of nothing', async () => {
    await many(20);
    const action = late();
    const visit = await asHand(action);
    const stopped = actOnDue(source, visit, action, {
      from: null,
      atMost: 30,
      beside: null,
      beforeKeeping: () => Promise.reject(new Error('stopped')),
    });
    await expect(stopped).rejects.toThrow('stopped');
    expect(await notes()).toEqual([]);
    const clerk = await visitWith(action);
    await edit(source, clerk, 'jobs', '1', hours(10));
    expect(await notes()).toEqual([]);
    await expect(act(source, visit, 'jobs', '1', 'late', { asked: {} })).rejects.toThrow('no such action');
    const none = { from: null, atMost: 5, beside: null, beforeKeeping: () => Promise.resolve() };
    await expect(actOnDue(source, clerk, action, none)).rejects.toThrow('no such action');
  });
});
