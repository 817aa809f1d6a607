import type { Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { holdRows } from '../../server/gate/review/prove';
import { asEverybody } from '../../server/review/as-everybody';
import type { CoreServices } from '../../server/definitions/portal-services';
import { Portal } from '../../server/store/models';
import { Random } from '../../core/proof/random';
import { Bringing } from './bringing';
import { Caller } from './caller';
import { Notes } from './notes';
import { Once } from './once';
import { Publishing } from './publishing';
import type { Receiver } from './receiver';
import { Rights } from './rights';
import { ShutOut } from './shut-out';
import type { Stream } from './stream';

/** What the streams are let loose on: the product with its demo. */
export interface World {
  /** Where it is reached, each way by its own address. */
  doors: readonly string[];
  /** The product's inside before it all begins: core works out from it what each person must get. */
  services: CoreServices;
  /** A connection to the records' own schema, past the product. */
  plain: () => Promise<Connection>;
  receiver: Receiver;
  random: Random;
}

const portal = '/portals/alder-fen';
const bench = '/builder/portals/alder-fen';
const people = {
  desk: 'odile.fennimore@example.org',
  courier: 'nell.quillfeather707@example.org',
  steward: 'anton.wray@example.org',
  owner: 'ines.brannock@example.org',
  sampler: 'mara.lindqvist@example.org',
};

/** Everybody who takes part, signed in, and all streams ready to begin. */
export async function streamsOf(world: World): Promise<Stream[]> {
  const { doors, receiver, random } = world;
  // What is made now is told from what was made before it.
  const tag = random.digits(6);
  const named = (what: string) => `${what} ${tag}`;
  const builder = new Caller(doors);
  await must(builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword }));
  await prepare(builder, receiver);
  const [desk, courier, steward, owner] = (await Promise.all(
    [people.desk, people.courier, people.steward, people.owner].map((email) => signedIn(doors, email)),
  )) as [Caller, Caller, Caller, Caller];
  const made = await must(builder.post(`${bench}/keys`, { role: 'post', name: 'Torture', aMinute: 100_000 }));
  const program = new Caller(doors, { authorization: `Bearer ${made.key}` });

  const { visits, base } = await inside(world);
  const rights = new Rights(builder, base, random);
  await rights.open();
  const readers = [
    rights.reader('desk', desk, visits.get(people.desk)!),
    rights.reader('steward', steward, visits.get(people.steward)!),
    rights.reader('owner', owner, visits.get(people.owner)!),
  ];
  const one = async <T>(sql: string, params: unknown[] = []) => (await rowsOf<T>(world, sql, params))[0]!;
  const ids = async (sql: string) => (await rowsOf<{ id: number }>(world, sql)).map(({ id }) => id);
  const bottles = await ids(
    `SELECT s.id FROM samples s JOIN lab_staff l ON l.lab_id = s.lab_id
      WHERE s.handed_over_at IS NULL AND l.email = '${people.courier}' ORDER BY s.id`,
  );
  const atLab = await ids("SELECT id FROM visits WHERE state = 'at lab' ORDER BY id");
  const own = await one<{ id: number }>(
    'SELECT w.id FROM wells w JOIN owners o ON o.id = w.owner_id WHERE o.email = ? LIMIT 1',
    [people.owner],
  );
  const brought = await one<{ well: string; sampler: number }>(
    "SELECT MIN(w.code) well, MIN(s.id) sampler FROM wells w, samplers s WHERE w.parish = 'Harrow End'",
  );
  const count = async (sql: string) =>
    new Map((await rowsOf<{ mark: string; times: bigint }>(world, sql)).map((row) => [row.mark, Number(row.times)]));
  const texts = (what: string) => () =>
    count(
      `SELECT title mark, COUNT(*) times FROM advisories WHERE title LIKE '${named(what)}, number%' GROUP BY title`,
    );
  const advisory = (mark: string) => ({
    values: { parish: 'Saltby', title: mark, text: mark, published: false },
  });
  const shut = await shutOut(doors, builder);
  return [
    ...[[1], [2], [3], [11, 12], [13, 14]].map((of) => new Notes(desk, of)),
    new Once({
      name: named('notices of the desk'),
      send: (_number, mark) => desk.post(`${portal}/records/advisories`, advisory(mark)),
      again: false,
      found: texts('notices of the desk'),
    }),
    new Once({
      name: named('notices by a key'),
      send: (_number, mark) =>
        program.send('POST', `/v1${portal}/records/advisories`, advisory(mark), { 'idempotency-key': pressOf(mark) }),
      again: true,
      found: texts('notices by a key'),
    }),
    new Once({
      name: named('forms sent'),
      send: (_number, mark) =>
        owner.post(`${portal}/pages/ask-visit/form/form`, {
          values: { access_note: mark },
          record: String(own.id),
          press: pressOf(mark),
        }),
      again: true,
      found: () =>
        count(
          `SELECT access_note mark, COUNT(*) times FROM visits
            WHERE access_note LIKE '${named('forms sent')}, %' GROUP BY access_note`,
        ),
    }),
    new Once({
      name: named('bottles handed over'),
      most: bottles.length,
      send: (number, mark) =>
        courier.post(`${portal}/records/samples/${bottles[number]}/actions/hand-over-bottle`, {
          asked: { temperature_c: '9.9' },
          press: pressOf(mark),
        }),
      again: true,
      // Each as often as the service outside was called about it, under whatever ids; by its record where it never was.
      found: async () => {
        const handed = await rowsOf<{ id: number; bottle: string }>(
          world,
          'SELECT id, bottle_code bottle FROM samples WHERE temperature_c = 9.9',
        );
        const calls = [...receiver.got.values()];
        return new Map(
          handed.map(({ id, bottle }) => [
            `${named('bottles handed over')}, number ${bottles.indexOf(id)}`,
            calls.filter((each) => each === bottle).length,
          ]),
        );
      },
    }),
    new Once({
      name: named('visits reported'),
      most: atLab.length,
      send: (number) => desk.post(`${portal}/records/visits/${atLab[number]}/moves/report`, { changes: {} }),
      again: false,
      found: async () => {
        const now = new Set(await ids("SELECT id FROM visits WHERE state = 'reported'"));
        return new Map(
          atLab.flatMap((id, number) => (now.has(id) ? [[`${named('visits reported')}, number ${number}`, 1]] : [])),
        );
      },
    }),
    new Bringing(steward, desk, { ...brought, each: 120, first: random.int(1, 20_000) }, () =>
      count("SELECT LEFT(planned_for, 10) mark, COUNT(*) times FROM visits WHERE planned_for > '2031' GROUP BY 1"),
    ),
    new Publishing(builder),
    rights.changes,
    ...readers,
    ...shut.streams,
  ];
}

/** A press's id, long enough for one. */
const pressOf = (mark: string): string => `torture: ${mark}`.replaceAll(/[^\w-]+/g, '-').slice(0, 64);

async function signedIn(doors: readonly string[], email: string): Promise<Caller> {
  const caller = new Caller(doors);
  await must(caller.post(`${portal}/sign-in`, { email, password: demoPassword }));
  return caller;
}

/** Somebody who is let in, whatever was before. */
async function shutOut(doors: readonly string[], builder: Caller): Promise<ShutOut> {
  const { members } = await must(builder.get(`${bench}/members?search=${encodeURIComponent(people.sampler)}`));
  const { id } = (members as { id: number; email: string }[]).find(({ email }) => email === people.sampler)!;
  await must(builder.send('DELETE', `${bench}/members/${id}/suspension`));
  const signIn = { email: people.sampler, password: demoPassword };
  return new ShutOut(builder, await signedIn(doors, people.sampler), id, signIn);
}

/** A program that may add notices, and calls that go to the receiver. */
async function prepare(builder: Caller, receiver: Receiver): Promise<void> {
  const { draft } = await must(builder.get(bench));
  draft.access.advisories = {
    ...draft.access.advisories,
    post: { create: { columns: ['parish', 'title', 'text', 'published'] } },
  };
  const address = (draft.addresses as { id: string; url: string }[]).find(({ id }) => id === 'bottle-tracker')!;
  address.url = receiver.address;
  const { revision } = await must(builder.send('PUT', `${bench}/definition`, draft));
  await must(builder.post(`${bench}/versions`, { revision, note: 'Before it begins', despite: 'torture' }));
}

/** What core needs to know of the inside: all records as they are before, and each person's visit. */
async function inside({ services }: World) {
  const live = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
  const definition = await services.definitions.version(live.id, live.publishedVersion!);
  const { people: all, visitOf } = await asEverybody(services, { portalId: live.id, ownerId: null }, definition);
  const visits = new Map(all.map((known) => [known.email, visitOf(known)]));
  const { source, catalogue } = [...visits.values()][0]!;
  const { held } = await holdRows(source, catalogue, 100_000);
  const rows = new Map(
    catalogue.tables.flatMap(({ name }) => (held.holds(name) ? [[name, [...held.rows(name)]]] : [])),
  );
  return { visits, base: { catalogue, rows } };
}

async function rowsOf<T>({ plain }: World, sql: string, params: unknown[] = []): Promise<T[]> {
  const connection = await plain();
  try {
    return await connection.query<T[]>(sql, params);
  } finally {
    await connection.end();
  }
}

async function must(telling: Promise<{ status: number; body: any } | null>): Promise<any> {
  const told = await telling;
  if (!told || told.status >= 300) throw new Error(`Before it began: ${JSON.stringify(told)}`);
  return told.body;
}
