import { Random } from '../core/proof/random';

/** What one request asks of the stations that it passes, in seconds. */
export interface Demand {
  /** Of a process that serves. */
  server: number;
  /** Of a core of the database's machine. */
  database: number;
  /** Elsewhere, where nobody waits for anybody: the network, the disk. */
  elsewhere: number;
}

export interface Load {
  /** Requests a second, arriving independently of each other (Poisson). */
  rate: number;
  requests: number;
  /** Each request asks one of these, all equally likely. */
  demands: readonly Demand[];
  /** Processes that serve, each with a queue of its own: a connection stays with one. */
  processes: number;
  /** Cores of the database, with one queue. */
  cores: number;
  seed: number;
}

export interface Simulated {
  /** Seconds from arrival to answer, in order of arrival, without the first tenth. */
  times: number[];
  /** Of each station, the share of the time that it works. */
  busy: { server: number; database: number };
}

/**
 * Simulates what arrives: first come, first served, at the processes and then at the database. A queue without feedback
 * can be worked out station by station, so no list of events is kept.
 */
export function simulate({ rate, requests, demands, processes, cores, seed }: Load): Simulated {
  const random = new Random(seed);
  const free = Array.from({ length: processes }, () => 0);
  let now = 0;
  const passed = Array.from({ length: requests }, (_, i) => {
    now -= Math.log(1 - random.next()) / rate;
    const demand = random.pick(demands);
    const process = random.int(0, processes - 1);
    free[process] = Math.max(now, free[process]!) + demand.server;
    return { i, arrived: now, served: free[process]!, demand };
  });
  const times: number[] = Array.from({ length: requests });
  const working = new Earliest(cores);
  let last = now;
  for (const { i, arrived, served, demand } of passed.toSorted((a, b) => a.served - b.served)) {
    const done = Math.max(served, working.least()) + demand.database;
    working.replaceLeast(done);
    times[i] = done - arrived + demand.elsewhere;
    last = Math.max(last, done);
  }
  const sum = (of: 'server' | 'database') => passed.reduce((all, { demand }) => all + demand[of], 0);
  return {
    times: times.slice(Math.floor(requests / 10)),
    busy: { server: sum('server') / (processes * last), database: sum('database') / (cores * last) },
  };
}

/** When each of several cores is free again; a binary heap, since there may be hundreds. */
class Earliest {
  private readonly heap: number[];
  constructor(cores: number) {
    this.heap = Array.from({ length: cores }, () => 0);
  }
  least(): number {
    return this.heap[0]!;
  }
  replaceLeast(value: number): void {
    const { heap } = this;
    let at = 0;
    for (;;) {
      let child = 2 * at + 1;
      if (child >= heap.length) break;
      if (child + 1 < heap.length && heap[child + 1]! < heap[child]!) child++;
      if (heap[child]! >= value) break;
      heap[at] = heap[child]!;
      at = child;
    }
    heap[at] = value;
  }
}
