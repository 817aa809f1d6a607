import { loadDemo } from '../demo/load';
import { openServices } from '../server/open-services';
import { proveOn } from '../server/review/proof-run';
import { Portal } from '../server/store/models';
import { openStore } from '../server/store/store';
import { round, type Figure } from './figures';
import { withMariadb } from './local-databases';

/** How many questions of a proof run are asked, and judged in memory, in a second. */
export async function proof(): Promise<Figure[]> {
  return withMariadb(['alder_fen', 'stone_porch'], async (address) => {
    const store = await openStore(address, 'stone_porch');
    await loadDemo(address, 'alder_fen', store, 'stone_porch');
    await store.close();
    const services = await openServices({
      database: address,
      ownSchema: 'stone_porch',
      secretKey: Buffer.alloc(32),
      privateAddresses: true,
    });
    try {
      const portal = (await Portal.findOne())!;
      const definition = await services.definitions.version(portal.id, portal.publishedVersion!);
      const told = await proveOn(services, { portalId: portal.id, ownerId: null }, definition, {
        seed: 1,
        writes: false,
      });
      const asked = Object.values(told.questions).reduce((sum, each) => sum + each, 0);
      const aSecond = asked / told.seconds;
      return [
        figure('questions of a proof run a second', aSecond, 500, '/s', '1 or more'),
        figure('answered other than core says', told.differed, 0, 'answers', '0'),
      ];
    } finally {
      await services.close();
    }
  });
}

const figure = (name: string, ours: number, reference: number, unit: string, aim: string): Figure => ({
  name,
  ours: round(ours),
  reference,
  unit,
  ratio: reference === 0 ? ours : round(ours / reference),
  aim,
});
