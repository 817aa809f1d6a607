import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { buffer } from 'node:stream/consumers';

/**
 * A fault that the torture must find: a change is acknowledged and not made; one is made twice; a list is told as it
 * was before; something is kept and said to be refused.
 */
export const lies = ['loses', 'doubles', 'remembers', 'denies'] as const;
export type Lie = (typeof lies)[number];

/** A door before a server that now and then lies; honest where no lie is named. */
export async function openDoor(
  server: string,
  lie: Lie | null,
): Promise<{ address: string; lied(): number; close(): Promise<void> }> {
  let changes = 0;
  let lied = 0;
  const remembered = new Map<string, Answer>();
  const answer = async (req: IncomingMessage): Promise<Answer> => {
    const [path] = req.url!.split('?') as [string];
    const body = await buffer(req);
    const ask = () => passOn(server, req, body);
    const isNotice = req.method === 'POST' && path.endsWith('/records/advisories') && !path.includes('/v1/');
    const lying = lie !== null && isNotice && ++changes % 3 === 0;
    if (lie === 'remembers' && req.method === 'GET' && path.endsWith('/records/owners')) {
      const key = `${req.headers.cookie} ${req.url}`;
      const before = remembered.get(key);
      if (before && ++lied % 3 !== 0) return before;
      const told = await ask();
      remembered.set(key, told);
      return told;
    }
    if (!lying || lie === 'remembers') return ask();
    lied++;
    if (lie === 'loses')
      return { status: 201, type: 'application/json', text: '{"id":null,"record":null}', cookies: [] };
    const told = await ask();
    if (lie === 'doubles') await ask();
    return lie === 'denies' ? { ...told, status: 403, text: '{}' } : told;
  };
  const door = createServer((req, res) => void answer(req).then((told) => tell(res, told)));
  await new Promise<void>((resolve) => door.listen(0, '127.0.0.1', resolve));
  return {
    address: `http://127.0.0.1:${(door.address() as AddressInfo).port}`,
    lied: () => lied,
    close: () => new Promise((resolve) => void door.close(() => resolve())),
  };
}

interface Answer {
  status: number;
  type: string;
  text: string;
  cookies: string[];
}

async function passOn(server: string, { method, url, headers }: IncomingMessage, body: Buffer): Promise<Answer> {
  const passed = ['content-type', 'cookie', 'x-stone-porch', 'authorization', 'idempotency-key'];
  const response = await fetch(server + url, {
    method: method!,
    headers: passed.flatMap((name): [string, string][] => (headers[name] ? [[name, String(headers[name])]] : [])),
    body: method === 'GET' ? undefined : new Uint8Array(body),
  });
  return {
    status: response.status,
    type: response.headers.get('content-type') ?? '',
    text: await response.text(),
    cookies: response.headers.getSetCookie(),
  };
}

function tell(res: ServerResponse, { status, type, text, cookies }: Answer): void {
  res.writeHead(status, { ...(type ? { 'content-type': type } : {}), 'set-cookie': cookies });
  res.end(text);
}
