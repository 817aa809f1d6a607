import { compareDefinitions, count } from '../server/gate/gate';
import { parseCondition } from '../core/condition/parse';
import type { KnownPerson } from '../core/access/people';
import { MariadbSource } from '../server/sources/mariadb';
import { round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { makeVisits, ownOrPlanned, sampler, visitsDefinition } from './visits';

const visits = 1_000_000;
const members = 10_000;
const asked = 500;

/**
 * A change that loses each sampler what they only planned and masks every fee, compared for 10,000 members on a million
 * rows; against asking person by person.
 */
export async function comparing(): Promise<Figure[]> {
  return withMariadb(['comparing'], async (address) => {
    console.log('making a million visits …');
    await (await makeVisits(address, 'comparing', visits, members)).end();
    const source = new MariadbSource(address, 'comparing', 2);
    try {
      const catalogue = await source.catalogue();
      const before = visitsDefinition('comparing', ownOrPlanned);
      const after = visitsDefinition('comparing', 'sampler_id = :member.samplers.id');
      after.access.visits!.sampler!.edit = {
        where: parseCondition("sampler_id = :member.samplers.id AND state = 'planned'").condition,
        columns: ['access_note'],
      };
      after.masks.push({
        id: 'fee',
        table: 'visits',
        column: 'fee',
        mask: { style: 'all' },
        to: 'everyone',
        exceptRoles: [],
      });
      const people = Array.from({ length: members }, (_, i): KnownPerson => ({
        ...sampler(i + 1),
        name: `Sampler ${i + 1}`,
      }));
      global.gc?.();
      const rss = process.memoryUsage().rss;
      let peak = rss;
      const watch = setInterval(() => {
        peak = Math.max(peak, process.memoryUsage().rss);
      }, 20);
      const from = performance.now();
      const compared = await compareDefinitions(source, catalogue, before, after, people, new Date());
      const taken = performance.now() - from;
      clearInterval(watch);
      const lost = compared.reduce((sum, group) => sum + group.change.rows.lost, 0);
      console.log(
        `${compared.length} groups, ${lost} rows lost, ` +
          `${compared.reduce((sum, group) => sum + (group.change.columns.fee?.closed ?? 0), 0)} fees closed`,
      );

      // Person by person only rows can be asked for, once under each definition; a part of the members, reckoned up to
      // all.
      const start = performance.now();
      let difference = 0;
      for (let i = 0; i < asked; i++) {
        const person = sampler(1 + i * 17);
        const [was, is] = [
          await count(source, { definition: before, catalogue, person, moment: new Date() }, 'visits'),
          await count(source, { definition: after, catalogue, person, moment: new Date() }, 'visits'),
        ];
        const change = compared.find((group) => group.people[0]!.id === person.id)!.change;
        if (was - is !== change.rows.lost)
          throw new Error(`member ${String(person.id)} loses ${was - is}, not ${change.rows.lost}`);
        difference += was - is;
      }
      const reference = ((performance.now() - start) / asked) * members;
      console.log(`${asked} members asked one by one: ${difference} rows lost, as compared`);
      const seconds = (milliseconds: number) => round(milliseconds / 1000, 2);
      return [
        {
          name:
            `compare for ${members} members on a million rows, against asking each for the number of rows ` +
            `(reckoned from ${asked})`,
          ours: seconds(taken),
          reference: seconds(reference),
          unit: 's',
          ratio: round(taken / reference),
          aim: 'under 10 s',
        },
        {
          name: 'memory growth meanwhile, against the aim',
          ours: Math.round((peak - rss) / 1e6),
          reference: 300,
          unit: 'MB',
          ratio: round((peak - rss) / 3e8),
          aim: 'under 300 MB',
        },
      ];
    } finally {
      await source.close();
    }
  });
}
