import type { Connection } from 'mariadb';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { Random } from '../../core/proof/random';
import { builderPerson, type Person } from '../../core/access/person';
import { parseCondition } from '../../core/condition/parse';
import { emptyDefinition, type FieldRule } from '../../core/definition/definition';
import { readDefinition } from '../../sections/definition';
import type { ImportPlan } from '../../core/table/import-plan';
import { freshSchema } from '../../test/tables';
import { MariadbSource } from '../sources/mariadb';
import { bring } from './import/bring';
import { InvalidValues, Refused } from './view/errors';
import type { Visit } from './view/visit';
import { create } from './write/create';
import { edit } from './write/edit';
import { several } from './write/several';

/**
 * The same rules as field rules of `ours` and, for MariaDB, as CHECK constraints and a trigger of `theirs`: what one
 * takes the other takes.
 */
let plain: Connection;
let source: MariadbSource;

const columns = `id INT AUTO_INCREMENT PRIMARY KEY, kind VARCHAR(10) NULL, phone VARCHAR(20) NULL, begins INT NULL,
  ends INT NULL, state VARCHAR(10) NOT NULL DEFAULT 'new', secret VARCHAR(10) NULL`;

const when = (text: string) => parseCondition(text).condition!;

const rules: FieldRule[] = [
  { id: 'kind', does: 'required', columns: ['kind'] },
  { id: 'ring', does: 'required', columns: ['phone'], when: when("kind = 'ring'"), message: 'We ring this number.' },
  {
    id: 'order',
    does: 'refused',
    columns: ['ends'],
    when: when('ends < begins'),
    message: 'It ends before it begins.',
  },
  { id: 'held', does: 'kept', columns: ['begins', 'kind'], when: when("state = 'closed'") },
  { id: 'dark', does: 'refused', columns: ['secret'], when: when("secret = 'no'"), message: 'The secret is no.' },
];

const definition = (of: FieldRule[] = rules) =>
  readDefinition({
    ...emptyDefinition({ slug: 'rules', name: 'Rules', timeZone: 'UTC', colour: '#1f5f85' }, 'rules'),
    roles: [{ id: 'one', name: 'One' }],
    tables: { ours: { rules: of } },
    access: {
      ours: {
        one: {
          see: { where: 'every row', columns: ['id', 'kind', 'phone', 'begins', 'ends', 'state'] },
          create: { columns: ['kind', 'phone', 'begins', 'ends', 'state'] },
          edit: { where: 'every row', columns: ['kind', 'phone', 'begins', 'ends', 'state'] },
        },
      },
    },
  });

const member: Person = { kind: 'member', id: 1, email: 'a@example.org', organisation: null, roles: ['one'], rows: {} };

const as = async (person: Person, of?: FieldRule[]): Promise<Visit> => ({
  definition: definition(of),
  catalogue: await source.catalogue(),
  person,
  moment: new Date('2026-11-23T12:00:00Z'),
});

const rowsOf = async (table: string) => plain.query<unknown[]>(`SELECT * FROM ${table} ORDER BY id`);

beforeAll(async () => {
  plain = await freshSchema(inject('database'), 'rules');
  for (const statement of [
    `CREATE TABLE ours (${columns})`,
    `CREATE TABLE theirs (${columns},
      CHECK (kind IS NOT NULL AND kind <> ''),
      CHECK (kind <> 'ring' OR kind IS NULL OR (phone IS NOT NULL AND phone <> '')),
      CHECK (NOT (ends < begins)),
      CHECK (NOT (secret = 'no')))`,
    `CREATE TRIGGER held BEFORE UPDATE ON theirs FOR EACH ROW
      IF OLD.state = 'closed' AND NOT (NEW.begins <=> OLD.begins AND NEW.kind <=> OLD.kind)
      THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'held'; END IF`,
  ])
    await plain.query(statement);
  source = new MariadbSource(inject('database'), 'rules');
});

afterAll(async () => {
  await source?.close();
  await plain?.end();
});

const refusalOf = async (work: Promise<unknown>): Promise<InvalidValues | Refused | null> => {
  try {
    await work;
    return null;
  } catch (error) {
    if (error instanceof InvalidValues || error instanceof Refused) return error;
    throw error;
  }
};

describe('field rules', () => {
  it('take and refuse what CHECK constraints and a trigger of MariaDB do, in 400 random writes', async () => {
    const random = new Random(11);
    const visit = await as(member);
    const values = {
      kind: [null, '', 'ring', 'write'],
      phone: [null, '', '01632 960001'],
      begins: [null, 1, 5],
      ends: [null, 1, 5],
      state: ['new', 'closed'],
    };
    let [taken, refused] = [0, 0];
    for (let i = 0; i < 400; i++) {
      const chosen = Object.entries(values).filter(() => random.chance(0.6));
      const sent = Object.fromEntries(
        chosen.map(([column, all]) => [column, random.pick<string | number | null>(all)]),
      );
      const names = Object.keys(sent);
      const [known] = await plain.query<Record<string, unknown>[]>('SELECT * FROM ours ORDER BY RAND() LIMIT 1');
      const isNew = !known || random.chance(0.4);
      const ours = await refusalOf(
        isNew
          ? create(source, visit, 'ours', sent)
          : edit(
              source,
              visit,
              'ours',
              String(known.id),
              Object.fromEntries(names.map((column) => [column, { from: known[column], to: sent[column] }])),
            ),
      );
      // The gate keeps an empty text as NULL where there may be one.
      const params = Object.values(sent).map((value) => (value === '' ? null : value));
      const theirs = await (
        isNew
          ? plain.query(`INSERT INTO theirs (${names.join()}) VALUES (${names.map(() => '?').join()})`, params)
          : names.length > 0
            ? plain.query(`UPDATE theirs SET ${names.map((column) => `${column} = ?`).join()} WHERE id = ?`, [
                ...params,
                known.id,
              ])
            : Promise.resolve()
      ).then(
        () => null,
        (error: Error) => error,
      );
      expect([i, isNew, sent, known, ours === null]).toEqual([i, isNew, sent, known, theirs === null]);
      if (ours) refused++;
      else taken++;
      // A refused INSERT uses a number up in one and not in the other.
      if (isNew && !ours)
        await plain.query('UPDATE theirs SET id = (SELECT MAX(id) FROM ours) ORDER BY id DESC LIMIT 1');
    }
    expect((await rowsOf('ours')).length).toBeGreaterThan(20);
    expect(await rowsOf('ours')).toEqual(await rowsOf('theirs'));
    expect(Math.min(taken, refused)).toBeGreaterThan(80);
  });

  it('say at its column what is wrong, every fault at once, in words of their own', async () => {
    const visit = await as(member);
    const fault = await refusalOf(create(source, visit, 'ours', { kind: 'ring', begins: 5, ends: 1 }));
    expect(fault).toMatchObject({ fields: { phone: 'We ring this number.', ends: 'It ends before it begins.' } });
    const { id } = await create(source, visit, 'ours', { kind: 'write', state: 'closed', begins: 2 });
    const kept = edit(source, visit, 'ours', id!, { kind: { from: 'write', to: 'ring' } });
    expect(await refusalOf(kept)).toMatchObject({ fields: { kind: "This can't be changed now." } });
    await edit(source, visit, 'ours', id!, { kind: { from: 'write', to: 'write' }, ends: { from: null, to: 9 } });
  });

  it('leave alone what a write is not about, and do not name what the person may not fill', async () => {
    const visit = await as(member);
    const made = await plain.query<{ insertId: bigint }>("INSERT INTO ours (kind, secret) VALUES ('ring', 'no')");
    const id = String(made.insertId);
    // It breaks two rules already, which are about other columns.
    await edit(source, visit, 'ours', id, { ends: { from: null, to: 3 } });
    const dark: FieldRule = { ...rules[4]!, when: when("secret = 'no' AND ends = 4") };
    const refused = await refusalOf(edit(source, await as(member, [dark]), 'ours', id, { ends: { from: 3, to: 4 } }));
    expect(refused).toBeInstanceOf(Refused);
    expect([refused!.message, refused!.fields]).toEqual([
      "This can't be saved: something else in the record does not allow it.",
      {},
    ]);
  });

  it('hold for moves', async () => {
    const of: FieldRule[] = [
      { id: 'state', does: 'kept', columns: ['state'], when: when("kind = 'held'") },
      { id: 'ends', does: 'required', columns: ['ends'], when: when("state = 'closed'") },
    ];
    const visit = await as(member, of);
    const moves = [{ id: 'close', name: 'Close', from: ['new'], to: 'closed', roles: ['one'], needs: [] }];
    visit.definition.lifecycles = [{ table: 'ours', column: 'state', moves }];
    const [held, free] = [
      await create(source, visit, 'ours', { kind: 'held', ends: 1 }),
      await create(source, visit, 'ours', { kind: 'free' }),
    ];
    const close = { state: { from: 'new', to: 'closed' } };
    expect(await refusalOf(edit(source, visit, 'ours', held.id!, close))).toBeInstanceOf(Refused);
    expect(await refusalOf(edit(source, visit, 'ours', free.id!, close))).toMatchObject({
      fields: { ends: 'This needs a value.' },
    });
    const done = await edit(source, visit, 'ours', free.id!, { ...close, ends: { from: null, to: 4 } });
    expect(done?.values.state).toBe('closed');
  });

  it('hold in many writes at once, in imports of builders, and refuse where they work no more', async () => {
    const writes = [{ create: { kind: 'write' } }, { create: { kind: 'ring' } }];
    const outcomes = await several(source, await as(member), 'ours', writes, 'each by itself');
    expect(outcomes.map(({ done }) => done)).toEqual([true, false]);
    const builder = await as(builderPerson);
    const plan: ImportPlan = {
      table: 'ours',
      key: null,
      unknown: 'add',
      known: 'refuse',
      empty: 'keep',
      columns: ['kind', 'phone'].map((column) => ({ header: column, column })),
    };
    const before = (await rowsOf('ours')).length;
    const looked = await bring(
      source,
      builder,
      plan,
      async function* () {
        yield {
          rows: [
            ['ring', ''],
            ['ring', '01632 960002'],
            ['', '01632 960003'],
          ],
          lines: [2, 3, 4],
        };
      },
      { write: null },
    );
    expect([looked.refused, (await rowsOf('ours')).length]).toEqual([2, before]);
    const gone: FieldRule = { id: 'gone', does: 'required', columns: ['nothing'] };
    expect((await refusalOf(create(source, await as(member, [gone]), 'ours', { kind: 'write' })))?.message).toContain(
      'a rule of the table does not work any more',
    );
  });
});
