import { createServer, type AddressInfo, type Socket } from 'node:net';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { areSettled, stateOf, type NodeState } from './node-state';

/** A node that is killed while it is asked how it is. A failure that is left to nobody would end the whole cluster. */
const lost: unknown[] = [];
const note = (error: unknown) => void lost.push(error);

beforeEach(() => {
  process.on('unhandledRejection', note);
  process.on('uncaughtException', note);
});
afterEach(() => {
  process.off('unhandledRejection', note);
  process.off('uncaughtException', note);
});

const packet = (number: number, ...parts: Buffer[]): Buffer => {
  const body = Buffer.concat(parts);
  return Buffer.concat([Buffer.from([body.length & 255, body.length >> 8, 0, number]), body]);
};

/** What a server says first (protocol 10 of MariaDB's documentation, "Initial Handshake Packet"). */
const greeting = packet(
  0,
  Buffer.from([10]),
  Buffer.from('10.11.0-MariaDB\0'),
  Buffer.from([1, 0, 0, 0]),
  Buffer.from('12345678\0'),
  // That it takes passwords by a named way, and nothing more.
  Buffer.from([0x08, 0xa2, 45, 2, 0, 0x08, 0, 21]),
  Buffer.alloc(10),
  Buffer.from('123456789012\0'),
  Buffer.from('mysql_native_password\0'),
);
const fine = (number: number): Buffer => packet(number, Buffer.from([0, 0, 0, 2, 0, 0, 0]));

/** A node that goes at the statement of this number; gives how it is. */
async function goingAt(statement: number): Promise<NodeState & { asked: number }> {
  let asked = 0;
  const server = createServer((socket: Socket) => {
    socket.on('error', () => undefined).write(greeting);
    let isIn = false;
    socket.on('data', (data) => {
      if (!isIn) {
        isIn = true;
        socket.write(fine(data[3]! + 1));
      } else if (++asked >= statement) socket.resetAndDestroy();
      else socket.write(fine(1));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  try {
    return { ...(await stateOf({ address: { host: '127.0.0.1', port, user: 'x', password: 'y' } })), asked };
  } finally {
    await new Promise((resolve) => server.close(resolve));
  }
}

it('is not ready, and nobody else is ended by it', async () => {
  for (const statement of [1, 2, 3]) {
    const { state, members, asked } = await goingAt(statement);
    expect([statement, state, members]).toEqual([statement, 'not ready', null]);
    expect(asked).toBeGreaterThan(0);
    // A rejection that nobody took is told once this turn is over.
    await new Promise((resolve) => setImmediate(resolve));
  }
  expect(lost).toEqual([]);
}, 30_000);

/** How many each node that is left decides with. */
const settled = (...members: (number | null)[]): boolean =>
  areSettled(members.map((count) => ({ state: 'ready', members: count })));

it('lets one back in when the others go on without it, or can’t', () => {
  // Both still count it.
  expect(settled(3, 3)).toBe(false);
  // One knows already.
  expect(settled(3, 2)).toBe(true);
  // Of one that stands still nobody knows, the other knows.
  expect(settled(null, 3)).toBe(false);
  expect(settled(null, 2)).toBe(true);
  // Nobody decides, so it is needed; whoever is silent may decide.
  expect(settled(0, 0)).toBe(true);
  expect(settled(0, null)).toBe(false);
  // It was the last.
  expect(settled()).toBe(true);
});
