import { createConnection, type Connection } from 'mariadb';
import { demoDefinition } from '../demo/definition';
import { loadTables } from '../demo/load';
import type { Action } from '../core/definition/action';
import { readDefinition } from '../sections/definition';
import type { Person } from '../core/access/person';
import { actWithEach, type PlacedVisit } from '../server/gate/gate';
import { MariadbSource } from '../server/sources/mariadb';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';

const many = 1000;
/** The first few are those of a process that has just begun. */
const times = 15;

/** Puts a visit off and makes a sample of it: two writes a record, under the desk's rights. */
const action: Action = {
  id: 'both',
  name: 'Both',
  table: 'visits',
  roles: ['desk'],
  several: 'all or nothing',
  asks: [],
  steps: [
    {
      kind: 'set',
      values: {
        planned_for: { kind: 'shifted', of: { kind: 'column', path: ['planned_for'] }, count: 1, unit: 'DAY' },
      },
    },
    {
      kind: 'make',
      table: 'wells',
      values: {
        code: { kind: 'asked', ask: 'code' },
        address: { kind: 'text', text: 'Mill Lane' },
        postcode: { kind: 'text', text: 'AF1' },
        parish: { kind: 'text', text: 'Saltby' },
        latitude: { kind: 'number', digits: '52' },
        longitude: { kind: 'number', digits: '1' },
        state: { kind: 'text', text: 'active' },
      },
    },
  ],
};

/** An action of two writes on 1,000 records against the same statements in one transaction written by hand. */
export async function actions(): Promise<Figure[]> {
  return withMariadb(['alder_fen'], async (address) => {
    await loadTables(address, 'alder_fen');
    const plain = await createConnection({ ...address, database: 'alder_fen', bigIntAsNumber: true });
    const source = new MariadbSource(address, 'alder_fen', 4);
    try {
      // Of what is made every record has one code, so nothing keeps it from being made a thousand times.
      await plain.query('ALTER TABLE wells DROP INDEX code');
      const catalogue = await source.catalogue(true);
      const own = { ...action, asks: [{ id: 'code', table: 'wells', column: 'code' }] };
      const definition = readDefinition({ ...demoDefinition('alder_fen'), actions: [own] });
      // The other side keeps none.
      delete definition.tables.wells!.history;
      const person: Person = {
        kind: 'member',
        id: 1,
        email: 'desk@example.org',
        organisation: null,
        roles: ['desk'],
        rows: {},
      };
      const visit: PlacedVisit = { definition, catalogue, person, moment: new Date(), source };
      const rows = await plain.query<{ id: number }[]>(
        `SELECT id FROM visits WHERE planned_for IS NOT NULL ORDER BY id LIMIT ${many}`,
      );
      const ids = rows.map(({ id }) => String(id));
      const ours: number[] = [];
      const byHand: number[] = [];
      let held = 0;
      for (let i = 0; i < times; i++) {
        byHand.push(await timed(() => hand(plain, ids)));
        const before = process.memoryUsage().heapUsed;
        ours.push(
          await timed(async () => {
            const { outcomes: done } = await actWithEach(source, visit, 'visits', ids, 'both', {
              asked: { code: 'AF-9999' },
            });
            if (done.length !== many || done.some((each) => !each.done)) throw new Error('not all were done');
          }),
        );
        held = Math.max(held, process.memoryUsage().heapUsed - before);
      }
      await same(plain);
      const [one, other] = [quantile(ours, 0.5), quantile(byHand, 0.5)];
      return [
        {
          name: 'an action of two writes on 1,000 records',
          ours: round(one),
          reference: round(other),
          unit: 'ms',
          ratio: round(one / other),
          aim: '2 or less',
        },
        {
          name: 'memory that it takes, at most',
          ours: round(held / 2 ** 20, 1),
          reference: 64,
          unit: 'MiB',
          ratio: round(held / 2 ** 20 / 64),
          aim: '1 or less',
        },
      ];
    } finally {
      await source.close();
      await plain.end();
    }
  });
}

async function timed(work: () => Promise<void>): Promise<number> {
  const from = performance.now();
  await work();
  return performance.now() - from;
}

/** As a careful developer writes it: each record is locked and looked at, and changed under the same condition. */
async function hand(plain: Connection, ids: string[]): Promise<void> {
  await plain.beginTransaction();
  for (const id of ids) {
    const [row] = await plain.query<{ planned_for: Date }[]>('SELECT planned_for FROM visits WHERE id = ? FOR UPDATE', [
      id,
    ]);
    if (!row) throw new Error('gone');
    await plain.query('UPDATE visits SET planned_for = planned_for + INTERVAL 1 DAY WHERE id = ?', [id]);
    await plain.query(
      "INSERT INTO wells (code, address, postcode, parish, latitude, longitude, state) VALUES ('AF-9999', " +
        "'Mill Lane', 'AF1', 'Saltby', 52, 1, 'active')",
    );
  }
  await plain.commit();
}

/** Both have made as many. */
async function same(plain: Connection): Promise<void> {
  const [made] = await plain.query<{ n: number }[]>("SELECT COUNT(*) n FROM wells WHERE code = 'AF-9999'");
  if (made!.n !== 2 * times * many) throw new Error(`made ${made!.n}, not ${2 * times * many}`);
}
