import type { Logger } from 'pino';
import { readFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { loadDemo } from '../demo/load';
import { startServer, type RunningServer } from '../server/server';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { openStore } from '../server/store/store';
import { toldAnswers } from './answers';
import { pasteDemo, type DemoCopy } from './demo-copy';
import { answerTo } from './request';

export interface Answer {
  status: number;
  body: any;
  headers: Headers;
}

/** A browser as far as the API sees one: keeps its cookies and says where it comes from. */
export class Client {
  private readonly cookies = new Map<string, string>();
  constructor(private readonly base: string) {}

  async send(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Answer> {
    const response = await answerTo(`${this.base}/api${path}`, {
      method,
      headers: {
        'x-stone-porch': 'test',
        'content-type': 'application/json',
        cookie: [...this.cookies].map((pair) => pair.join('=')).join('; '),
        ...headers,
      },
      body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [name, value] = cookie.split(';')[0]!.split('=') as [string, string];
      this.cookies.set(name, value);
    }
    return this.told(method, path, response, response.text);
  }
  /** The answer, if it is one that the API's document tells of. */
  private told(method: string, path: string, response: { status: number; headers: Headers }, text: string): Answer {
    const { status, headers: sent } = response;
    // A file is what it is.
    const isJson = /\bjson\b/.test(sent.get('content-type') ?? '');
    const body: unknown = text === '' ? null : isJson ? JSON.parse(text) : text;
    toldAnswers().check(method, path, status, sent.get('content-type') ?? '', body);
    return { status, body, headers: sent };
  }
  /** What a signed-in browser sends along. */
  headers = () => ({ 'x-stone-porch': 'test', cookie: [...this.cookies].map((pair) => pair.join('=')).join('; ') });
  async form(path: string, form: FormData): Promise<Answer> {
    const response = await fetch(`${this.base}/api${path}`, { method: 'POST', headers: this.headers(), body: form });
    return this.told('POST', path, response, await response.text());
  }
  /** Begins a job by a POST, waits until it is over and gives how it ended. `jobs` is where jobs are asked for. */
  async ended(jobs: string, path: string, body?: unknown): Promise<{ id: number; state: string; result: any }> {
    let answer = await this.post(path, body);
    // Less and less often, so that asking takes little of what the job itself needs.
    for (let wait = 20; answer.status < 300 && !['done', 'failed', 'cancelled'].includes(answer.body.state);) {
      await sleep((wait = Math.min(wait * 1.4, 400)));
      answer = await this.get(`${jobs}/${answer.body.id}`);
    }
    if (answer.status >= 300) throw new Error(`${path}: ${JSON.stringify(answer.body)}`);
    return answer.body as { id: number; state: string; result: any };
  }
  get = (path: string) => this.send('GET', path);
  post = (path: string, body?: unknown) => this.send('POST', path, body ?? {});
}

/** The demo in two empty schemas: in tests a copy of the one that was loaded for all of them. */
async function demoInto(address: DatabaseAddress, records: string, own: string): Promise<void> {
  if (process.env.VITEST) {
    const { inject } = await import('vitest');
    const copy = JSON.parse(readFileSync(inject('demo'), 'utf8')) as DemoCopy;
    return pasteDemo(address, copy, { records, own });
  }
  const store = await openStore(address, own);
  await loadDemo(address, records, store, own);
  await store.close();
}

/** The whole server over the demo, in schemas of its own. */
export async function demoServer(
  address: DatabaseAddress,
  schema: string,
  ownSchema: string,
  webFolder: string | null = null,
  log?: Logger,
): Promise<{ server: RunningServer; client(): Client; base: string }> {
  await demoInto(address, schema, ownSchema);
  const server = await startServer({ database: address, ownSchema, port: 0, webFolder, privateAddresses: true, log });
  const base = `http://127.0.0.1:${server.port}`;
  return { server, base, client: () => new Client(base) };
}
