import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import { Random } from '../../core/proof/random';
import { connect } from '../../demo/load';
import { OutsideCall } from '../../server/store/call-models';
import { demoServer } from '../server';
import { lies, openDoor, type Lie } from './lying-door';
import { openReceiver, type Receiver } from './receiver';
import { Streams } from './stream';
import { streamsOf } from './world';

/** What judges a cluster under torture finds faults that are planted, and none where there is none. */
let demo: Awaited<ReturnType<typeof demoServer>>;
let receiver: Receiver;

beforeAll(async () => {
  demo = await demoServer(inject('database'), 'tortured', 'tortured_own');
  receiver = await openReceiver();
});
afterAll(async () => {
  await demo?.server.close();
  await receiver?.close();
});

const callsLeft = () => OutsideCall.count({ where: { state: ['held', 'waiting', 'sending'] } });

/** Lets all streams work until the door has lied some times; at an honest one until each has done something. */
async function played(lie: Lie | null, seed: number): Promise<string[]> {
  const doors = await Promise.all([openDoor(demo.base, lie), openDoor(demo.base, lie)]);
  try {
    const streams = new Streams(
      await streamsOf({
        doors: doors.map(({ address }) => address),
        services: demo.server.services,
        plain: () => connect(inject('database'), 'tortured'),
        receiver,
        random: new Random(seed),
      }),
    );
    streams.start();
    const did = ['done', 'judged', 'in'];
    const worked = () => Object.values(streams.counts()).every((counts) => did.some((what) => counts[what]! > 0));
    // What is remembered is a lie only once something else holds.
    const lied = () =>
      lie === 'remembers' ? streams.noted > 0 : doors.reduce((sum, door) => sum + door.lied(), 0) > 2;
    while (!(lie === null ? worked() : lied())) await sleep(20);
    await streams.stop();
    await expect.poll(callsLeft, { timeout: 60_000 }).toBe(0);
    console.log(JSON.stringify(streams.counts()));
    return await streams.judge();
  } finally {
    await Promise.all(doors.map((door) => door.close()));
  }
}

it('finds nothing wrong where nothing is', async () => {
  expect(await played(null, 1)).toEqual([]);
});

const found: Record<Lie, RegExp> = {
  loses: /^notices of the desk \d+: lost: /,
  doubles: /^notices of the desk \d+: there 2 times: /,
  remembers: /^(desk|steward|owner): got \d+ owners/,
  denies: /^notices of the desk \d+: kept, though it was said not to be: /,
};

it.each(lies.map((lie, i) => [lie, i + 2] as const))('finds a door that %s', async (lie, seed) => {
  const wrong = await played(lie, seed);
  expect(wrong).toContainEqual(expect.stringMatching(found[lie]));
  expect(wrong.filter((sentence) => !found[lie].test(sentence))).toEqual([]);
});
