import { expect, it } from 'vitest';
import { Random } from '../core/proof/random';
import { simulate, type Demand } from './arrivals';

/**
 * The simulation against the textbook's closed formulas: Erlang C for exponential times at several cores, and
 * Pollaczek–Khinchine for any times at one. Both from memory; they stand in every text on queues.
 */

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
const random = new Random(11);
const exponential = (of: number) => Array.from({ length: 50_000 }, () => -Math.log(1 - random.next()) * of);

/** The mean wait of M/M/k: C(k, a) / (k μ − λ), with a = λ / μ. */
function erlangWait(rate: number, service: number, k: number): number {
  const a = rate * service;
  let term = 1;
  let sum = 1;
  for (let n = 1; n < k; n++) sum += term *= a / n;
  const all = (term * a) / k / (1 - a / k);
  return all / (sum + all) / (k / service - rate);
}

it.each([
  [2, 0.7],
  [8, 0.8],
  [40, 0.9],
])('waits at %i cores, busy by %f, as Erlang C says', (cores, busy) => {
  const times = exponential(0.01);
  const service = mean(times);
  const rate = (busy * cores) / service;
  const demands = times.map((database): Demand => ({ server: 0, database, elsewhere: 0 }));
  const { times: taken, busy: was } = simulate({ rate, requests: 400_000, demands, processes: 1, cores, seed: 3 });
  const expected = erlangWait(rate, service, cores);
  expect(Math.abs(mean(taken) - service - expected)).toBeLessThan(0.1 * expected + 0.002 * service);
  expect(was.database).toBeCloseTo(busy, 1);
});

it.each(['all alike', 'exponential', 'few and long'])(
  'waits at one process as Pollaczek–Khinchine says: %s',
  (kind) => {
    const services =
      kind === 'all alike'
        ? [0.01]
        : kind === 'exponential'
          ? exponential(0.01)
          : Array.from({ length: 100 }, (_, i) => (i < 95 ? 0.004 : 0.1));
    const rate = 0.7 / mean(services);
    const demands = services.map((server): Demand => ({ server, database: 0, elsewhere: 0 }));
    const { times } = simulate({ rate, requests: 400_000, demands, processes: 1, cores: 1, seed: 5 });
    const wait = (rate * mean(services.map((each) => each ** 2))) / (2 * (1 - 0.7));
    expect(Math.abs(mean(times) - mean(services) - wait) / wait).toBeLessThan(0.08);
  },
);

it('several processes with a queue each are as many alone, each with its share', () => {
  const demands: Demand[] = [{ server: 0.01, database: 0, elsewhere: 0.5 }];
  const p95 = ({ times }: { times: number[] }) => times.toSorted((a, b) => a - b)[Math.floor(times.length * 0.95)]!;
  const one = simulate({ rate: 60, requests: 200_000, demands, processes: 1, cores: 1, seed: 7 });
  const eight = simulate({ rate: 480, requests: 200_000, demands, processes: 8, cores: 1, seed: 8 });
  expect(p95(eight) / p95(one)).toBeCloseTo(1, 1);
  expect(eight.times.every((time) => time > 0.509)).toBe(true);
});
