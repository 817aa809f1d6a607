import { createConnection } from 'mariadb';
import { demoServer } from '../test/server';
import { refreshPortal } from '../server/people/refresh-job';
import { startServer } from '../server/server';
import { hashPassword } from '../server/sessions/passwords';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { Portal } from '../server/store/models';
import { Member } from '../server/store/people-models';
import { publishDraft } from '../server/versions/publish';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';

/** So many answers for addresses of members, and as many for addresses of nobody. */
const each = 2000;
/** |z| of a normal distribution that chance passes once in a hundred times, two-sided. */
const hundredth = 2.576;

/**
 * Whether the time of an answer at the door tells members from strangers: 2,000 answers for each, one after the other,
 * in random order, held against each other by the rank test of Mann and Whitney (normal approximation, with ties).
 */
export function door(): Promise<Figure[]> {
  return withMariadb(['door', 'door_own'], async (address) => {
    const base = await prepared(address);
    const server = await startServer({
      database: address,
      ownSchema: 'door_own',
      port: 0,
      webFolder: null,
      privateAddresses: true,
      trustProxy: true,
    });
    try {
      const at = `http://127.0.0.1:${server.port}/api/portals/alder-fen`;
      const ways = {
        'a code is asked for': (email: string, from: string) => ask(`${at}/calls`, { email, wants: 'code' }, from),
        'a code is typed': (email: string, from: string) => ask(`${at}/sign-in/code`, { email, code: '123456' }, from),
        'a password is typed': (email: string, from: string) =>
          ask(`${at}/sign-in`, { email, password: 'not the password of anybody' }, from),
      };
      const portal = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
      const token = server.services.signUpLinks.tokenOf(portal.id, 'harrow-end');
      const values = { name: 'Somebody', postal_address: '1 Fen Lane' };
      Object.assign(ways, {
        'somebody asks to come in by a link': (email: string, from: string) =>
          ask(`${at}/sign-up`, { token, email, values }, from),
        'somebody asks to come in by a domain': (email: string, from: string) => ask(`${at}/open`, { email }, from),
      });
      const figures: Figure[] = [];
      for (const [name, way] of Object.entries(ways)) figures.push(await compare(name, way, base));
      return figures;
    } finally {
      await server.close();
    }
  });
}

/** The demo with members enough, who may sign in by password and by code; gives how their addresses begin. */
async function prepared(address: DatabaseAddress): Promise<string> {
  const { server } = await demoServer(address, 'door', 'door_own');
  try {
    const { host, port, socketPath, user, password } = address;
    const plain = await createConnection({ host, port, socketPath, user, password, database: 'door' });
    await plain.query(
      `INSERT INTO owners (name, email, postal_address, parish)
        SELECT CONCAT('Owner ', seq), CONCAT('known', seq, '@many.example.org'), 'x', 'Saltby'
        FROM seq_1_to_${each + 200}`,
    );
    await plain.end();
    const portal = await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true });
    const draft = JSON.parse(portal.draft) as { signIn?: object; openTo?: object; roles: object[] };
    draft.signIn = { methods: ['password', 'code'] };
    draft.roles.push({ id: 'guest', name: 'Guest', withoutRow: true });
    draft.openTo = { domains: ['many.example.org'], roles: ['guest'] };
    await portal.update({ draft: JSON.stringify(draft), revision: portal.revision + 1 });
    await publishDraft(server.services.store.sequelize, portal.id, portal.revision, '', 'bench');
    await refreshPortal(server.services, await portal.reload());
    await Member.update({ passwordHash: await hashPassword('a password of all of them') }, { where: {} });
    return 'known';
  } finally {
    await server.close();
  }
}

type Way = (email: string, from: string) => Promise<void>;

async function ask(url: string, body: object, from: string): Promise<void> {
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'x-stone-porch': 'bench', 'x-forwarded-for': from },
    body: JSON.stringify(body),
  });
  await answer.arrayBuffer();
  if (answer.status !== 202 && answer.status !== 401) throw new Error(`${answer.status} at ${url}`);
}

async function compare(name: string, way: Way, known: string): Promise<Figure> {
  const asked = Array.from({ length: each }, (_, i) => [
    { email: `${known}${i + 1}@many.example.org`, isKnown: true },
    { email: `other${i + 1}@many.example.org`, isKnown: false },
  ]).flat();
  for (let i = asked.length - 1; i > 0; i--) {
    const j = Math.floor(Math.random() * (i + 1));
    [asked[i], asked[j]] = [asked[j]!, asked[i]!];
  }
  const times: { time: number; isKnown: boolean }[] = [];
  // Every asker from an address of their own, so that none is slowed down.
  for (const [i, { email, isKnown }] of asked.entries()) {
    const from = performance.now();
    await way(email, `10.${i >> 16}.${(i >> 8) & 255}.${i & 255}`);
    times.push({ time: performance.now() - from, isKnown });
  }
  const of = (isKnown: boolean) => times.filter((one) => one.isKnown === isKnown).map(({ time }) => time);
  const z = Math.abs(rankTest(of(true), of(false)));
  console.log(`${name}: median ${quantile(of(true), 0.5).toFixed(2)} and ${quantile(of(false), 0.5).toFixed(2)} ms`);
  return {
    name: `${name}: members against strangers, z of the rank test against that of 1 %`,
    ours: round(z),
    reference: hundredth,
    unit: 'z',
    ratio: round(z / hundredth),
    aim: '1 or less',
  };
}

/** How far apart two lists are, as z of the normal approximation of Mann and Whitney's U. */
function rankTest(a: readonly number[], b: readonly number[]): number {
  const all = [...a.map((value) => ({ value, isA: true })), ...b.map((value) => ({ value, isA: false }))].toSorted(
    (one, other) => one.value - other.value,
  );
  let ranks = 0;
  let ties = 0;
  for (let i = 0; i < all.length;) {
    let end = i;
    while (end < all.length && all[end]!.value === all[i]!.value) end++;
    const count = end - i;
    ranks += all.slice(i, end).filter(({ isA }) => isA).length * ((i + 1 + end) / 2);
    ties += count ** 3 - count;
    i = end;
  }
  const [n, m] = [a.length, b.length];
  const u = ranks - (n * (n + 1)) / 2;
  const deviation = Math.sqrt(((n * m) / 12) * (n + m + 1 - ties / ((n + m) * (n + m - 1))));
  return (u - (n * m) / 2) / deviation;
}
