import { demoDefinition } from '../demo/definition';
import { loadDemo } from '../demo/load';
import { startServer } from '../server/server';
import { OutsideCall } from '../server/store/call-models';
import { Portal } from '../server/store/models';
import { openStore } from '../server/store/store';
import { publishDraft } from '../server/versions/publish';
import { openReceiver } from '../standins/receiver/receiver';
import { round, type Figure } from './figures';
import { withMariadb } from './local-databases';

const many = 10_000;
/** So many records are told of, each several times. */
const records = 2000;

/** 10,000 calls of the outbox to the receiver: how long they take, and whether each came once, in order. */
export async function outbox(): Promise<Figure[]> {
  return withMariadb(['alder_fen', 'stone_porch'], async (address) => {
    const receiver = await openReceiver({});
    const store = await openStore(address, 'stone_porch');
    await loadDemo(address, 'alder_fen', store, 'stone_porch');
    const draft = demoDefinition('alder_fen', true, { tracker: receiver.address, receiver: receiver.address });
    const portal = (await Portal.findOne({ where: { slug: 'alder-fen' } }))!;
    await portal.update({ draft: JSON.stringify(draft), revision: 2 });
    await publishDraft(store.sequelize, portal.id, 2, 'Where the receiver is', 'bench');
    await store.close();
    const server = await startServer({
      database: address,
      ownSchema: 'stone_porch',
      port: 0,
      webFolder: null,
      privateAddresses: true,
    });
    try {
      const { outsideCalls, caller } = server.services;
      receiver.secrets.push(await caller.secrets.renew(portal.id, 'lab-desk'));
      const calls = Array.from({ length: many }, (_, i) => ({
        portalId: portal.id,
        memberId: null,
        role: null,
        action: 'to-the-lab',
        step: 1,
        address: 'lab-desk',
        tableName: 'visits',
        recordId: String(i % records),
        onceKey: `call_${i}`,
        body: JSON.stringify({ type: 'bench', data: { n: i } }),
        answers: false,
      }));
      for (let i = 0; i < many; i += 1000) await outsideCalls.hold(calls.slice(i, i + 1000), false);
      const began = performance.now();
      for (let i = 0; i < many; i += 1000)
        await outsideCalls.keep(calls.slice(i, i + 1000).map(({ onceKey }) => onceKey));
      while ((await OutsideCall.count({ where: { state: 'done' } })) < many)
        await new Promise((resolve) => setTimeout(resolve, 200));
      const seconds = (performance.now() - began) / 1000;
      const last = new Map<string, number>();
      let outOfOrder = 0;
      for (const { data } of receiver.calls) {
        const n = Number(data.n);
        const of = String(n % records);
        if ((last.get(of) ?? -1) > n) outOfOrder++;
        last.set(of, n);
      }
      const came = new Set(receiver.calls.map(({ id }) => id));
      const sent = receiver.calls.length;
      const alone = await calledAlone(receiver.address);
      const counted = (name: string, ours: number, reference: number): Figure => ({
        name,
        ours,
        reference,
        unit: 'calls',
        ratio: reference === 0 ? ours : round(ours / reference),
        aim: String(reference),
      });
      return [
        {
          name: '10,000 calls from the outbox, against as many sent alone by four at a time',
          ours: round(seconds),
          reference: round(alone),
          unit: 's',
          ratio: round(seconds / alone),
          aim: 'said',
        },
        counted('arrived', came.size, many),
        counted('came more than once', sent - came.size, 0),
        counted("came before an earlier one of their record's", outOfOrder, 0),
      ];
    } finally {
      await server.close();
      await receiver.close();
    }
  });
}

/** As many calls with the same bodies, sent by four at a time with nothing written down, in seconds. */
async function calledAlone(address: string): Promise<number> {
  const began = performance.now();
  let next = 0;
  const lane = async (): Promise<void> => {
    while (next < many) {
      const body = JSON.stringify({ type: 'bench', data: { n: next++ } });
      await (await fetch(address, { method: 'POST', body, headers: { 'content-type': 'application/json' } })).text();
    }
  };
  await Promise.all(Array.from({ length: 4 }, lane));
  return (performance.now() - began) / 1000;
}
