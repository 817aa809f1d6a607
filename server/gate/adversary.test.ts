import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { freshSchema } from '../../test/tables';
import type { PortalDefinition } from '../../core/definition/definition';
import { MariadbSource } from '../sources/mariadb';
import { SomeRefused } from './view/errors';
import { list } from './read/list';
import {
  World,
  secrets,
  when,
  definition,
  clerk,
  columnsOf,
  guesses,
  asking,
  question,
  everyPath,
  Attempt,
} from './adversary.fixture';
import { ways, forBuilders, intoOtherSources, tellsNothing } from './adversary-ways.fixture';
import * as face from './gate';

const worlds: World[] = [];

const connections: Connection[] = [];

const schemas = ['adversary', 'adversary_twin'];

beforeAll(async () => {
  for (const [world, schema] of schemas.entries()) {
    const plain = await freshSchema(inject('database'), schema);
    connections.push(plain);
    await plain.query(
      'CREATE TABLE clients (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, email VARCHAR(80), ' +
        'birth DATE, pin VARCHAR(20) UNIQUE, salary DECIMAL(10,2), secret VARCHAR(40), tax VARCHAR(20), score ' +
        'INT, tenant INT NOT NULL DEFAULT 1, slot INT UNIQUE) AUTO_INCREMENT = 500',
    );
    // Who wears which badge is told by a column that is hidden: a relation that ends in it must not give it away.
    await plain.query(
      'CREATE TABLE badges (id INT PRIMARY KEY, client_slot INT NULL, colour VARCHAR(20), FOREIGN KEY ' +
        '(client_slot) REFERENCES clients (slot))',
    );
    await plain.query(
      'CREATE TABLE notes (id INT AUTO_INCREMENT PRIMARY KEY, client_id INT NULL, words VARCHAR(40), rating ' +
        'INT, visible BOOLEAN NOT NULL DEFAULT TRUE, FOREIGN KEY (client_id) REFERENCES clients (id)) ' +
        'AUTO_INCREMENT = 500',
    );
    await plain.query(
      'CREATE TABLE logs (id INT PRIMARY KEY, client_id INT NULL, line VARCHAR(40), FOREIGN KEY (client_id) ' +
        'REFERENCES clients (id))',
    );
    for (const [i, row] of secrets[world]!.entries())
      await plain.query('INSERT INTO clients VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 1, ?)', [
        i + 1,
        ...row,
        1 + ((i + world) % 3),
      ]);
    // Outside of the view: other clients, their notes, notes that are not visible, and a table that is not granted.
    for (let i = 0; i < (world === 0 ? 2 : 5); i++)
      await plain.query('INSERT INTO clients VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 2, ?)', [
        100 + i,
        `Out ${world}${i}`,
        `out${i}@example.com`,
        '2000-01-01',
        `O-${world}${i}`,
        10 * world,
        'outside',
        'T',
        world,
        10 + world * 10 + i,
      ]);
    for (let i = 1; i <= 6; i++)
      await plain.query('INSERT INTO notes VALUES (?, ?, ?, ?, TRUE)', [
        i,
        1 + (i % 3),
        `note ${i}`,
        world === 0 ? i : 10 - i,
      ]);
    for (let i = 0; i < 3; i++)
      await plain.query('INSERT INTO notes VALUES (?, ?, ?, ?, FALSE)', [
        50 + i,
        world === 0 ? 1 : 2,
        `unseen ${world}`,
        7,
      ]);
    await plain.query("INSERT INTO notes VALUES (60, ?, 'of others', 1, TRUE)", [100 + world]);
    for (let i = 1; i <= 3; i++)
      await plain.query('INSERT INTO badges VALUES (?, ?, ?)', [i, i, ['red', 'green', 'blue'][i - 1]]);
    for (let i = 0; i < 1 + world; i++)
      await plain.query('INSERT INTO logs VALUES (?, ?, ?)', [i, 1 + world, `line ${world}`]);
    const source = new MariadbSource(inject('database'), schema);
    worlds.push({ source, catalogue: await source.catalogue() });
  }
});

afterAll(async () => {
  for (const world of worlds) await world.source.close();
  for (const connection of connections) await connection.end();
});

for (const column of new Set([
  ...columnsOf.clients,
  ...columnsOf.notes,
  'client.secret',
  'client.email',
  'client.salary',
  'client.birth',
  'client.tenant',
  'client.score',
  'client_slot_record.name',
  'client_slot_record.id',
])) {
  for (const guess of guesses)
    asking.push(
      ...['=', '<>', '<', '>='].map((sign) => when(`${column} ${sign} ${guess}`)),
      when(`NOT (${column} = ${guess})`),
      when(`${column} IN (${guess}, 1)`),
    );
  asking.push(
    when(`${column} IS NULL`),
    when(`${column} LIKE 'a%'`),
    when(`${column} LIKE '%9%'`),
    when(`${column} = ${column === 'name' ? 'pin' : 'name'}`),
    when(`${column} BETWEEN 0 AND 1500`),
  );
}

for (const inside of [
  'notes.rating > 5',
  'notes.visible = FALSE',
  "notes.words LIKE 'unseen%'",
  "notes.client.secret = 'is ill'",
  'notes.client.score > 4',
  'notes.id > 40',
])
  asking.push(
    when(`EXISTS (notes WHERE ${inside})`),
    when(`NOT EXISTS (notes WHERE ${inside})`),
    when(`EXISTS (client.notes WHERE ${inside})`),
  );

asking.push(
  when("EXISTS (badges WHERE badges.colour = 'red')"),
  when('EXISTS (badges)'),
  when('EXISTS (client.badges WHERE badges.id = 2)'),
  when('EXISTS (notes)'),
  when('EXISTS (logs)'),
  when("EXISTS (logs WHERE logs.line = 'line 0')"),
  when('EXISTS (client.logs)'),
);

/** What the adversary learns: the attempts whose answers differ between the worlds, as many as are enough. */
async function learned(attempts: Attempt[], asked: PortalDefinition, enough = Infinity): Promise<string[]> {
  const found: string[] = [];
  for (const [name, run] of attempts) {
    if (found.length === enough) break;
    const answers: string[] = [];
    for (const world of worlds)
      answers.push(
        await answerOf(() =>
          run(world, {
            definition: asked,
            catalogue: world.catalogue,
            person: clerk,
            moment: new Date('2026-11-23T12:00:00Z'),
          }),
        ),
      );
    if (answers[0] !== answers[1]) found.push(`${name}: ${answers.join(' | ')}`);
  }
  return found;
}

async function answerOf(work: () => Promise<unknown>): Promise<string> {
  const say = (value: unknown): unknown =>
    value instanceof Error
      ? [
          value.constructor.name,
          value.message,
          (value as { fields?: unknown }).fields ?? null,
          value instanceof SomeRefused
            ? value.outcomes.map((outcome) => (outcome.done ? outcome : say(outcome.error)))
            : null,
        ]
      : value;
  try {
    return JSON.stringify(await work(), (_, value: unknown) => say(value));
  } catch (error) {
    // Only the gate's own answers may reach a person; anything else would be a fault of the server.
    if (
      !['NotFound', 'BadQuestion', 'InvalidValues', 'Refused', 'Conflict', 'SomeRefused'].includes(
        (error as Error).constructor.name,
      )
    )
      throw error;
    return JSON.stringify(say(error));
  }
}

describe('an adversary', () => {
  it('sees the same in both worlds to begin with', async () => {
    const [one, other] = await Promise.all(
      worlds.map((world) =>
        list(world.source, { definition, catalogue: world.catalogue, person: clerk, moment: new Date() }, 'clients', {
          ...question,
          size: 9,
          columns: everyPath('clients'),
        }),
      ),
    );
    expect(one).toEqual(other);
    expect(one!.records.map((record) => record.values)).toMatchObject([
      { name: 'Ada', email: '•••@example.org', birth: '1980', pin: '••••••77', salary: '1000–2000', tax: '••••' },
      { name: 'Bo' },
      { name: 'Cy' },
    ]);
  });

  for (const way of Object.keys(ways)) {
    it(`learns nothing by ${way}`, async () => {
      const attempts = ways[way]!();
      expect(attempts.length).toBeGreaterThan(3);
      expect(await learned(attempts, definition)).toEqual([]);
    });
  }

  it('would learn without the masks, the row filter or the hidden columns', async () => {
    const open = (change: (draft: PortalDefinition) => void) => {
      const draft = structuredClone(definition);
      change(draft);
      return draft;
    };
    const attempts = [...ways.list!(), ...ways.count!()];
    const enough = 11;
    expect(
      (
        await learned(
          attempts,
          open((draft) => {
            draft.masks = draft.masks.filter((mask) => mask.id !== 'pin');
          }),
          enough,
        )
      ).length,
    ).toBe(enough);
    expect(
      (
        await learned(
          attempts,
          open((draft) => {
            draft.access.notes!.clerk!.see!.columns.push('rating');
          }),
          enough,
        )
      ).length,
    ).toBe(enough);
    expect(
      (
        await learned(
          attempts,
          open((draft) => {
            draft.access.clients!.clerk!.see!.where = 'every row';
          }),
          enough,
        )
      ).length,
    ).toBe(enough);
  });

  it('is tried on every way into the gate', () => {
    const entries = Object.entries(face)
      .filter(([, given]) => typeof given === 'function')
      .map(([name]) => name);
    expect(entries.length).toBeGreaterThan(40);
    const known = new Set([...Object.keys(ways), ...Object.keys(forBuilders), ...intoOtherSources, ...tellsNothing]);
    expect(entries.filter((name) => !known.has(name))).toEqual([]);
  });
});
