import Joi from 'joi';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { Random } from '../../core/proof/random';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { freshSchema } from '../../test/tables';
import { apiOf } from '../api';
import type { Services } from '../portals/services';
import type { RunningServer } from '../server';
import { tries } from '../../test/thorough';

let server: RunningServer;
let client: () => Client;
beforeAll(async () => {
  for (const schema of ['refusals', 'refusals_own']) await (await freshSchema(inject('database'), schema)).end();
  ({ server, client } = await demoServer(inject('database'), 'refusals', 'refusals_own'));
});
afterAll(() => server?.close());

const parameters: Record<string, string> = {
  ':slug': 'alder-fen',
  ':table': 'wells',
  ':column': 'code',
  ':member': '1',
  ':builder': '999',
  ':mail': '1',
  ':role': 'desk',
  ':session': '999',
  ':id': '1',
  ':page': 'my-wells',
  ':section': 'list',
  ':relation': 'owner',
  ':job': '1',
  ':file': 'f'.repeat(32),
  ':number': '1',
  ':name': 'nothing',
  ':key': '999',
  ':kept': '1',
  ':comment': '1',
  ':attachment': '1',
  ':action': 'close-visit',
  ':form': 'test-request',
  ':move': 'plan',
};

interface Route {
  method: string;
  path: string;
  words: string[];
}

/** Every endpoint, with the names that its schemas know at any depth. */
function routes(): Route[] {
  return apiOf({ store: {} } as Services).flatMap(({ under, endpoints }) =>
    Object.values(endpoints).map(({ method, path, query, body }) => ({
      method,
      path: (under + path).replaceAll(/:\w+/g, (name) => parameters[name] ?? 'x'),
      words: [...new Set([query, body].flatMap((schema) => (Joi.isSchema(schema) ? namesIn(schema.describe()) : [])))],
    })),
  );
}

function namesIn(described: unknown): string[] {
  if (typeof described !== 'object' || described === null) return [];
  return Object.entries(described).flatMap(([key, value]) => [
    ...(key === 'keys' && typeof value === 'object' && value !== null ? Object.keys(value) : []),
    ...namesIn(value),
  ]);
}

/** What Joi says by itself, without the places where it puts values in: none of it may reach a person. */
const validatorsWords = [
  ...new Set(
    [
      Joi.any(),
      Joi.string(),
      Joi.number(),
      Joi.boolean(),
      Joi.date(),
      Joi.array(),
      Joi.object(),
      Joi.alternatives(),
      Joi.binary(),
      Joi.symbol(),
      Joi.link(),
      Joi.function(),
    ]
      .flatMap((schema) =>
        Object.values(
          (schema as unknown as { _definition: { messages: Record<string, { source?: string } | string> } })._definition
            .messages,
        ),
      )
      .flatMap((message) => (typeof message === 'string' ? message : (message.source ?? '')).split(/\{+[^}]*\}+/))
      .map((part) => part.trim())
      .filter((part) => part.split(' ').length >= 3 || part === 'is required'),
  ),
];

/** So many for each route; 300 found no more than 15, and 15 no more than 8. */
const times = tries(2, 8);
/** As many as one person may ask at a time, so that none waits for another until it is told that there is too much. */
const atOnce = 4;

it("every route refuses what doesn't fit in sentences of ours", async () => {
  expect(validatorsWords).toEqual(
    expect.arrayContaining([
      'is not allowed to be empty',
      'must be a string',
      'does not match any of the allowed types',
    ]),
  );
  const builder = client();
  await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
  // Each of those that ask beside each other has its own chance: the same is asked every time.
  const pick = <T>(random: Random, list: readonly T[]): T => list[random.int(0, list.length - 1)]!;
  const odd = (random: Random, words: string[], depth: number): unknown => {
    const kinds: (() => unknown)[] = [
      () => null,
      () => random.int(-5, 1e6),
      () => 0.5,
      () => true,
      () => '',
      () => 'x'.repeat(random.int(1, 5000)),
      () => 'Ünlikely, \u0000 "name"',
      () => [],
    ];
    if (depth < 3)
      kinds.push(
        () => Array.from({ length: random.int(1, 3) }, () => odd(random, words, depth + 1)),
        () =>
          Object.fromEntries(
            Array.from({ length: random.int(0, 4) }, () => [
              pick(random, words.length > 0 ? words : ['a']),
              odd(random, words, depth + 1),
            ]),
          ),
      );
    return pick(random, kinds)();
  };
  const all = routes();
  expect(all.length).toBeGreaterThan(100);
  const wrong: string[] = [];
  const told = new Set<string>();
  let refused = 0;
  // Signing out would end what asks; a sign-in is slowed down by its address after ten.
  const asked = all.filter((route) => !/sign-(out|in)$/.test(route.path));
  await Promise.all(
    Array.from({ length: atOnce }, async (_, at) => {
      const random = new Random(300 + at);
      for (const { method, path, words } of asked.filter((__, i) => i % atOnce === at)) {
        for (let i = 0; i < times; i++) {
          const body = Object.fromEntries(
            Array.from({ length: random.int(0, 4) }, () => [
              pick(random, [...words, 'surprise']),
              odd(random, words, 0),
            ]),
          );
          const asText = (value: unknown) => (typeof value === 'object' ? JSON.stringify(value) : String(value));
          const fields = Object.entries(body).map(([key, value]): [string, string] => [key, asText(value)]);
          const query = `?${new URLSearchParams(fields).toString().slice(0, 3000)}`;
          const answer =
            method === 'GET' || method === 'DELETE'
              ? await builder.send(method, path + query)
              : await builder.send(method, path, body);
          const said =
            typeof answer.body === 'object' && answer.body !== null
              ? JSON.stringify([
                  answer.body.detail,
                  (answer.body.faults as { reason: string }[] | undefined)?.map((fault) => fault.reason),
                  answer.body.fields,
                ])
              : '';
          const word = answer.status >= 400 ? validatorsWords.find((each) => said.includes(each)) : undefined;
          if (answer.status >= 500 || word !== undefined || /\[object|undefined|fails to match/.test(said)) {
            // One of each kind is enough to see.
            const kind = `${method} ${path} ${answer.status} ${word}`;
            if (told.size !== told.add(kind).size)
              wrong.push(`${kind}: ${JSON.stringify(body).slice(0, 300)} → ${said.slice(0, 400)}`);
          }
          if (answer.status >= 400) refused++;
        }
      }
    }),
  );
  expect(wrong).toEqual([]);
  expect(refused).toBeGreaterThan(tries(300, 700));
}, 600_000);
