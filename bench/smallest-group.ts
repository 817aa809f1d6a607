import { figures, type Visit } from '../server/gate/gate';
import { builderPerson, type Person } from '../core/access/person';
import { demoDefinition } from '../demo/definition';
import { loadTables } from '../demo/load';
import { MariadbSource } from '../server/sources/mariadb';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { inTurns } from './timing';

/** Days with fewer results are told together. */
const few = 40;
const desk: Person = { ...builderPerson, kind: 'member', id: 1, roles: ['desk'] };

/**
 * A figure over the demo's 45,000 results by the day on which their sample came; the smaller groups are merged, against
 * the same figure with every group told.
 */
export async function smallestGroup(): Promise<Figure[]> {
  return withMariadb(['smallest_group'], async (address) => {
    await loadTables(address, 'smallest_group');
    const source = new MariadbSource(address, 'smallest_group', 2);
    try {
      const visit: Visit = {
        definition: demoDefinition('smallest_group'),
        catalogue: await source.catalogue(),
        person: desk,
        moment: new Date(),
      };
      const ask = (smallest: number) =>
        figures(source, visit, 'results', {
          measures: [
            { what: 'count' },
            { what: 'average', path: ['value'] },
            { what: 'distinct', path: ['analyte_code'] },
          ],
          by: [{ path: ['sample', 'received_at'], step: 'day' }],
          where: [],
          smallestGroup: smallest,
        });
      const [whole, merged] = [await ask(0), await ask(few)];
      if (!(merged.groups.length < whole.groups.length && merged.groups.length > 1))
        throw new Error(`merged ${whole.groups.length} groups into ${merged.groups.length}`);
      const times = await inTurns({ merged: () => ask(few), whole: () => ask(0) }, 30, 5);
      const [ours, reference] = [quantile(times.merged, 0.5), quantile(times.whole, 0.5)];
      return [
        {
          name:
            `figure over 45,000 rows in ${whole.groups.length.toLocaleString('en')} groups with a smallest ` +
            'group, against the same without',
          ours: round(ours),
          reference: round(reference),
          unit: 'ms',
          ratio: round(ours / reference),
          aim: '3 or less',
        },
      ];
    } finally {
      await source.close();
    }
  });
}
