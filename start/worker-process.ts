import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import type { Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Advice } from '../core/refusals/advice';
import type { Among } from '../server/processes/among';
import type { RunningServer } from '../server/server';
import { faultWords } from './fault.mjs';
import { serve } from './serve';
import type { FromWorker, ToWorker } from './workers';

/** One of several processes that serve: it does what the first one says, and ends with it. */
let server: RunningServer | null = null;
let ending = false;
let asked = 0;
const asking = new Map<number, (text: string | null) => void>();

/** A server ends idle connections, and knows how long one may take, only while it listens: at a place that is gone. */
const door = createServer();
const folder = mkdtempSync(join(tmpdir(), 'stone-porch-door-'));
const listening = once(door.listen(join(folder, 'door')), 'listening').then(() => rmSync(folder, { recursive: true }));

const say = (message: FromWorker) => {
  if (process.connected) process.send!(message);
};

const among: Among = {
  live: 1,
  wanted: 1,
  leads: false,
  ownMetrics: null,
  metricsOfAll: async () => {
    const number = ++asked;
    const told = new Promise<string | null>((resolve) => asking.set(number, resolve));
    say({ say: 'metrics of all', number });
    try {
      const text = await told;
      if (text === null) throw new Error('the numbers could not be added up');
      return text;
    } finally {
      asking.delete(number);
    }
  },
};

const end = async (code: number) => {
  if (ending) return;
  ending = true;
  await server?.close().catch(() => undefined);
  process.exit(code);
};
const fault = (error: unknown) => {
  // What it is told to leave fails.
  if (ending) return;
  const words = error instanceof Advice ? error.message : faultWords(error);
  console.error(words);
  say({ say: 'refused', words });
  void end(1);
};

// A whole group may be told to stop; the first process says when.
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => undefined);
process.on('disconnect', () => void end(0));
process.on('uncaughtException', fault);
process.on('unhandledRejection', fault);

process.on('message', (message: ToWorker, socket?: Socket) => {
  if (message.say === 'serve') void begin(message).catch(fault);
  if (message.say === 'connection') {
    say({ say: 'taken', number: message.number });
    if (socket) take(socket);
  }
  if (message.say === 'lead') server?.lead();
  if (message.say === 'among') Object.assign(among, { live: message.live, wanted: message.wanted });
  if (message.say === 'metrics of all') asking.get(message.number)?.(message.text);
  if (message.say === 'your metrics')
    void (among.ownMetrics?.() ?? Promise.resolve([]))
      .catch(() => [])
      .then((told) => say({ say: 'my metrics', number: message.number, told }));
  if (message.say === 'stop') void end(0);
});

async function begin({ order, port, alone }: ToWorker & { say: 'serve' }): Promise<void> {
  await listening;
  server = await serve(door, { order, port }, alone, among);
  say({ say: 'serving' });
}

function take(socket: Socket): void {
  // As on connections that a server takes itself: who asks may be done with sending before they are answered.
  socket.allowHalfOpen = true;
  socket.setNoDelay(true);
  door.emit('connection', socket);
}
