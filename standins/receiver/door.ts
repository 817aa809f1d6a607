import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Webhook } from 'standardwebhooks';
import { page, words } from '../page';

/** A call as it came. */
export interface ReceivedCall {
  /** The same for every try of one call. */
  id: string;
  at: Date;
  path: string;
  /** Whether its signature is of one of the secrets that are known here, as the reference package says. */
  isSigned: boolean;
  type: string;
  data: Record<string, unknown>;
}

export interface Answer {
  status: number;
  body?: unknown;
  headers?: Record<string, string>;
  /** Text that is sent in place of a body. */
  text?: string;
}

/** A door on loopback at which calls come in; it shows what came on a page of its own. */
export interface Door {
  address: string;
  port: number;
  readonly calls: readonly ReceivedCall[];
  /** What calls may be signed with. */
  secrets: string[];
  /** Says what to answer in place of what it would; null for that. For trying what becomes of it. */
  mood: ((call: ReceivedCall, res: ServerResponse) => Answer | null | Promise<Answer | null>) | null;
  close(): Promise<void>;
}

const mostKept = 20_000;
const mostShown = 200;
const largest = 1024 * 1024;

/** Opens a door; `answer` says what a call is answered that is signed as it must be. */
export async function openDoor({
  title,
  port = 0,
  answer,
  pages = {},
}: {
  title: string;
  port?: number;
  answer: (call: ReceivedCall) => Answer;
  /** Texts that can be fetched, by their path, each with its type. */
  pages?: Record<string, () => { type: string; text: string }>;
}): Promise<Door> {
  const calls: ReceivedCall[] = [];
  const door: Pick<Door, 'secrets' | 'mood'> = { secrets: [], mood: null };
  const send = (res: ServerResponse, status: number, type: string, text: string, headers = {}) => {
    if (!res.destroyed)
      res.writeHead(status, { 'content-type': type, 'content-security-policy': policy, ...headers }).end(text);
  };
  const take = async (req: IncomingMessage, res: ServerResponse): Promise<void> => {
    const text = await readBody(req);
    const call = received(req, text, door.secrets);
    calls.push(call);
    if (calls.length > mostKept) calls.shift();
    const given =
      (await door.mood?.(call, res)) ??
      (call.isSigned
        ? answer(call)
        : { status: 401, body: { detail: 'This is not signed by a secret that is known here.' } });
    if (res.headersSent || res.destroyed) return;
    send(res, given.status, 'application/json', given.text ?? JSON.stringify(given.body ?? {}), given.headers);
  };
  const server = createServer((req, res) => {
    const path = (req.url ?? '/').split('?')[0]!;
    if (req.method === 'POST') {
      take(req, res).catch(() => send(res, 400, 'text/plain', 'This could not be read.'));
      return;
    }
    const known = Object.hasOwn(pages, path) ? pages[path]!() : null;
    if (known) send(res, 200, known.type, known.text);
    else if (path === '/') send(res, 200, 'text/html; charset=utf-8', callsPage(title, calls));
    else send(res, 404, 'text/plain', 'There is nothing here.');
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen({ port, host: '127.0.0.1', backlog: 4096 }, () => resolve());
  });
  const at = (server.address() as AddressInfo).port;
  return Object.assign(door, {
    address: `http://localhost:${at}`,
    port: at,
    calls,
    close: async () => {
      server.closeAllConnections();
      await new Promise<void>((resolve) => server.close(() => resolve()));
    },
  });
}

const policy = "default-src 'none'; style-src 'unsafe-inline'";

async function readBody(req: IncomingMessage): Promise<string> {
  const pieces: Buffer[] = [];
  let length = 0;
  for await (const piece of req as AsyncIterable<Buffer>) {
    length += piece.length;
    if (length > largest) throw new Error('too long');
    pieces.push(piece);
  }
  return Buffer.concat(pieces).toString('utf8');
}

function received(req: IncomingMessage, text: string, secrets: readonly string[]): ReceivedCall {
  const headers = Object.fromEntries(
    ['webhook-id', 'webhook-timestamp', 'webhook-signature'].map((name) => [name, String(req.headers[name] ?? '')]),
  );
  const isSigned = secrets.some((secret) => {
    try {
      new Webhook(secret).verify(text, headers);
      return true;
    } catch {
      return false;
    }
  });
  const { type = '', data = {} } = JSON.parse(text) as { type?: string; data?: Record<string, unknown> };
  return { id: headers['webhook-id']!, at: new Date(), path: req.url ?? '/', isSigned, type, data };
}

function callsPage(title: string, calls: readonly ReceivedCall[]): string {
  const rows = calls
    .slice(-mostShown)
    .toReversed()
    .map(
      ({ at, type, data, isSigned, id }) =>
        `<tr><td>${at.toISOString().slice(0, 19).replace('T', ' ')} UTC</td><td>${words(type)}</td>` +
        `<td>${words(JSON.stringify(data))}</td><td>${isSigned ? 'yes' : 'no'}</td><td>${words(id)}</td></tr>`,
    );
  const list =
    rows.length === 0
      ? '<p>Nothing has come yet. Load this page again when you expect a call.</p>'
      : '<table><thead><tr><th>Came</th><th>Of</th><th>Tells</th><th>Signed</th><th>Id</th></tr></thead>' +
        `<tbody>${rows.join('')}</tbody></table>`;
  return page(title, `<h1>${words(title)}</h1><p>A stand-in of the demo: it keeps what it is told.</p>${list}`);
}
