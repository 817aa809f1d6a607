import { readdirSync, readFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { demoPassword } from '../demo/load';
import type { Demand } from './arrivals';

/** What members ask, and how often of a hundred requests: an assumption, to be replaced by what an access log says. */
export const shares = {
  'a list of 50 of 400 own records': 40,
  'a record': 30,
  'who am I': 20,
  'a change of a record': 8,
  'signing in by a password': 2,
} as const;
export type Kind = keyof typeof shares;

export interface Answer {
  status: number;
  body: string;
  cookie: string;
}

const agent = new Agent({ keepAlive: true, maxSockets: 2000 });

export function ask(port: number, cookie: string, path: string, method = 'GET', body?: object): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const headers = { cookie, 'x-stone-porch': 'bench', ...(body ? { 'content-type': 'application/json' } : {}) };
    const asking = request({ port, path: `/api/portals/alder-fen${path}`, host: '127.0.0.1', agent, method, headers });
    asking.once('error', reject).once('response', (response) => {
      let text = '';
      response
        .setEncoding('utf8')
        .on('data', (part: string) => (text += part))
        .on('end', () => {
          const [cookie = ''] = response.headers['set-cookie'] ?? [];
          resolve({ status: response.statusCode!, body: text, cookie: cookie.split(';')[0]! });
        });
    });
    asking.end(body && JSON.stringify(body));
  });
}

const listPath = '/records/visits?columns=planned_for,state,access_note,seal_number,asked_on&sort=-planned_for';

/** A member with a session, and the addresses of some of their own records. */
export interface Asker {
  cookie: string;
  ids: readonly string[];
}

export async function askerOf(port: number, cookie: string): Promise<Asker> {
  const { records } = JSON.parse((await ask(port, cookie, listPath)).body) as {
    records: { id: string; values: { access_note: string | null } }[];
  };
  return {
    cookie,
    ids: records.map(({ id, values }) => {
      const address = encodeURIComponent(id);
      notes.set(`${port} ${address}`, values.access_note);
      return address;
    }),
  };
}

const asks: Record<Kind, (port: number, cookie: string, id: string, i: number) => Promise<Answer>> = {
  'a list of 50 of 400 own records': (port, cookie) => ask(port, cookie, listPath),
  'a record': (port, cookie, id) => ask(port, cookie, `/records/visits/${id}`),
  'who am I': (port, cookie) => ask(port, cookie, '/me'),
  'a change of a record': change,
  'signing in by a password': (port) =>
    ask(port, '', '/sign-in', 'POST', { email: 'mara.lindqvist@example.org', password: demoPassword }),
};

/** One request of a kind. Throws what was refused. */
export async function once(port: number, { cookie, ids }: Asker, kind: Kind, i: number): Promise<void> {
  const answer = await asks[kind](port, cookie, ids[i % ids.length]!, i);
  if (answer.status >= 400) throw new Error(`${kind}: ${answer.status} ${answer.body}`);
}

/** What stands in the notes at each server as long as nobody else writes them. */
const notes = new Map<string, string | null>();

function change(port: number, cookie: string, id: string, i: number): Promise<Answer> {
  const at = `${port} ${id}`;
  const [from, to] = [notes.get(at) ?? null, `The gate is shut, ${i}`];
  notes.set(at, to);
  return ask(port, cookie, `/records/visits/${id}`, 'PATCH', { changes: { access_note: { from, to } } });
}

/** Seconds for which all threads of a process have run. */
export function ran(pid: number): number {
  let nanoseconds = 0;
  for (const thread of readdirSync(`/proc/${pid}/task`))
    nanoseconds += Number(readFileSync(`/proc/${pid}/task/${thread}/schedstat`, 'utf8').split(' ')[0]);
  return nanoseconds / 1e9;
}

interface Pids {
  server: number;
  database: number;
}

/**
 * What each of so many requests of a kind asks of server and database. How they differ is told by asking one after the
 * other, how much they are on average by a few at once: a processor at work is quicker than one that has just been
 * woken.
 */
export async function demandsOf(work: (i: number) => Promise<void>, pids: Pids, times: number): Promise<Demand[]> {
  const demands: Demand[] = [];
  for (let i = -warmUp; i < times; i++) {
    const [before, from] = [ranBy(pids), performance.now()];
    await work(i + warmUp);
    const taken = (performance.now() - from) / 1000;
    const { server, database } = since(pids, before);
    if (i >= 0) demands.push({ server, database, elsewhere: Math.max(0, taken - server - database) });
  }
  const before = ranBy(pids);
  let begun = times + warmUp;
  const last = begun + times;
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      while (begun < last) await work(begun++);
    }),
  );
  const together = since(pids, before);
  const alone = (of: keyof Pids) => demands.reduce((sum, demand) => sum + demand[of], 0);
  const [server, database] = [together.server / alone('server'), together.database / alone('database')];
  return demands.map((each) => ({ ...each, server: each.server * server, database: each.database * database }));
}

const ranBy = ({ server, database }: Pids): Pids => ({ server: ran(server), database: ran(database) });

function since(pids: Pids, before: Pids): Pids {
  const now = ranBy(pids);
  return { server: now.server - before.server, database: now.database - before.database };
}

const warmUp = 60;
/** As many as one person may ask at a time. */
const atOnce = 4;
