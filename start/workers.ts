import { fork, type ChildProcess } from 'node:child_process';
import type { Socket } from 'node:net';
import { fileURLToPath } from 'node:url';
import { setTimeout as sleep } from 'node:timers/promises';
import { AggregatorRegistry } from 'prom-client';
import { Advice } from '../core/refusals/advice';
import { takeConnections, type Gateway } from './door';
import type { ServeOrder } from './serve';

/** What serves: here, or in processes of their own. */
export interface Serving {
  /** Begins to serve; gives the port. */
  serve(order: ServeOrder): Promise<number>;
  close(): Promise<void>;
}

/** What the first process says to those that serve; a connection comes with the socket. */
export type ToWorker =
  | { say: 'serve'; order: ServeOrder; port: number; alone: boolean }
  | { say: 'connection'; number: number }
  | { say: 'lead' }
  | { say: 'among'; live: number; wanted: number }
  | { say: 'your metrics'; number: number }
  | { say: 'metrics of all'; number: number; text: string | null }
  | { say: 'stop' };

/** What they say to it. */
export type FromWorker =
  | { say: 'refused'; words: string }
  | { say: 'serving' }
  | { say: 'taken'; number: number }
  | { say: 'metrics of all'; number: number }
  | { say: 'my metrics'; number: number; told: unknown };

/** One that dies is begun anew so often within a minute; who dies more often has something that does not pass. */
const mostAnews = 10;
/** So long a process may take to tell its numbers, in milliseconds. */
const patience = 2000;

/** A process that serves, as the first one knows it. */
interface Process {
  child: ChildProcess;
  state: 'begun' | 'serving' | 'gone';
  /** Why it could not, in words for people. */
  refused: string | null;
  /** The connections that it was given and has not said that it has, by number. */
  given: Map<number, Socket>;
  /** Those who wait for its numbers. */
  metrics: Map<number, (told: unknown) => void>;
}

/**
 * Several processes that serve at one port, as many as there are cores. Each is a server as one on another machine
 * would be: they share the database, and nothing else. The first process hands them their connections, lets one of them
 * lead, and begins one anew that dies. A connection is handed on until somebody has it: one that was on its way to a
 * process that died goes to another.
 */
class Workers implements Serving {
  private readonly all = new Set<Process>();
  private leader: Process | null = null;
  private order: ServeOrder | null = null;
  private closing = false;
  private deaths: number[] = [];
  private numbers = 0;

  constructor(
    private readonly gateway: Gateway,
    private readonly wanted: number,
    private readonly end: (code: number, words: string) => Promise<void>,
  ) {}

  async serve(order: ServeOrder): Promise<number> {
    // What a server before left undone is gone on with by the first, while no other can have it in hand.
    const first = this.fork(order, order.ownDatabase);
    await this.untilServing(first);
    this.gateway.handOn((socket) => this.give(socket));
    // From now on one that dies is begun anew.
    this.order = order;
    this.fill();
    await Promise.all([...this.all].map((each) => this.untilServing(each)));
    return this.gateway.port;
  }

  async close(): Promise<void> {
    this.closing = true;
    this.gateway.close();
    for (const each of this.all) this.send(each, { say: 'stop' });
    while (this.all.size > 0) await sleep(20);
  }

  private fork(order: ServeOrder, alone: boolean): Process {
    const child = fork(fileURLToPath(`${process.env.STONE_PORCH_BUNDLE!}/worker-process.mjs`));
    const begun: Process = { child, state: 'begun', refused: null, given: new Map(), metrics: new Map() };
    this.all.add(begun);
    child.on('message', (message: FromWorker) => this.hear(begun, message));
    child.on('error', () => undefined);
    child.once('exit', () => this.lose(begun));
    this.send(begun, { say: 'serve', order, port: this.gateway.port, alone });
    return begun;
  }

  private hear(from: Process, message: FromWorker): void {
    if (message.say === 'refused') from.refused = message.words;
    if (message.say === 'serving') {
      from.state = 'serving';
      this.tellAll();
    }
    if (message.say === 'taken') {
      from.given.get(message.number)?.destroy();
      from.given.delete(message.number);
    }
    if (message.say === 'my metrics') from.metrics.get(message.number)?.(message.told);
    if (message.say === 'metrics of all')
      void this.metrics()
        .catch(() => null)
        .then((text) => this.send(from, { say: 'metrics of all', number: message.number, text }));
  }

  private lose(gone: Process): void {
    gone.state = 'gone';
    this.all.delete(gone);
    if (this.leader === gone) this.leader = null;
    for (const socket of gone.given.values()) if (!this.give(socket)) socket.destroy();
    this.tellAll();
    if (this.closing || !this.order) return;
    const now = Date.now();
    this.deaths = [...this.deaths.filter((at) => at > now - 60_000), now];
    if (this.deaths.length > mostAnews) {
      void this.end(1, gone.refused ?? 'Its processes end again and again. Their log says why; then start it again.');
      return;
    }
    console.log('A process that serves has ended. Another is begun; the others go on.');
    // One that can't begin is not begun again at once.
    setTimeout(() => this.fill(), this.deaths.length > 2 ? 1000 : 0);
  }

  /** As many as are wanted. */
  private fill(): void {
    while (!this.closing && this.order && this.all.size < this.wanted) this.fork(this.order, false);
  }

  private tellAll(): void {
    const live = this.serving();
    for (const each of live) this.send(each, { say: 'among', live: live.length, wanted: this.wanted });
    const [first] = live;
    if (this.leader || this.closing || !first) return;
    this.leader = first;
    this.send(first, { say: 'lead' });
  }

  /** Hands a connection to the process that has fewest on their way to it, by turns where that says nothing. */
  private give(socket: Socket): boolean {
    const number = ++this.numbers;
    const live = this.serving();
    const [next] = [...live.slice(number % live.length), ...live.slice(0, number % live.length)].sort(
      (a, b) => a.given.size - b.given.size,
    );
    if (!next) return false;
    next.given.set(number, socket);
    this.send(next, { say: 'connection', number }, socket);
    return true;
  }

  /** The numbers of all that serve, added up; of those that tell theirs in time. */
  private async metrics(): Promise<string> {
    const number = ++this.numbers;
    const told = await Promise.all(
      this.serving().map(async (each) => {
        const answer = new Promise<unknown>((resolve) => each.metrics.set(number, resolve));
        this.send(each, { say: 'your metrics', number });
        const late = new AbortController();
        const numbers = await Promise.race([answer, sleep(patience, [], { signal: late.signal }).catch(() => [])]);
        late.abort();
        each.metrics.delete(number);
        return numbers as object[];
      }),
    );
    return AggregatorRegistry.aggregate(told).metrics();
  }

  private serving(): Process[] {
    return [...this.all].filter(({ state }) => state === 'serving');
  }

  private send({ child }: Process, message: ToWorker, socket?: Socket): void {
    // One that is gone in this moment is heard of by its end.
    if (child.connected) child.send(message, socket, { keepOpen: true }, () => undefined);
  }

  private async untilServing(each: Process): Promise<void> {
    while (each.state === 'begun') await sleep(20);
    // Later ones are begun anew where they end.
    if (each.state === 'gone' && !this.order)
      throw new Advice(each.refused ?? 'A process that is to serve has ended at once. Its log says why.');
  }
}

/** Takes the port for several processes; those who come before they serve are told to wait. */
export async function beginWorkers(
  wanted: number,
  at: { port: number; host: string },
  end: (code: number, words: string) => Promise<void>,
): Promise<Serving> {
  const workers = new Workers(await takeConnections(at), wanted, end);
  return { serve: (order) => workers.serve(order), close: () => workers.close() };
}
