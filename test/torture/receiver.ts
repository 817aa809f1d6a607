import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { text } from 'node:stream/consumers';

/** A service outside that remembers every call by its id, and what it was about. */
export interface Receiver {
  address: string;
  /** The bottle of each call, by the call's id. */
  got: Map<string, string>;
  close(): Promise<void>;
}

export async function openReceiver(): Promise<Receiver> {
  const got = new Map<string, string>();
  const server = createServer((req, res) => {
    void text(req).then((body) => {
      const { data } = JSON.parse(body) as { data: { bottle: string } };
      got.set(String(req.headers['webhook-id']), data.bottle);
      res.writeHead(200, { 'content-type': 'application/json' });
      res.end(JSON.stringify({ receipt: { number: `BT-${got.size}` } }));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    got,
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`,
    close: () => new Promise((resolve) => void server.close(() => resolve())),
  };
}
