import { list as gateList, page, type ListQuestion } from '../server/gate/gate';
import { builderPerson } from '../core/access/person';
import { MariadbSource } from '../server/sources/mariadb';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { inTurns } from './timing';
import { makeVisits, perSampler, sampler, visitColumns, visitsDefinition } from './visits';

const question: ListQuestion = {
  columns: visitColumns.map((column) => [column]),
  sort: [],
  where: [],
  search: '',
  after: null,
  before: null,
  size: 50,
};

const sizes = { 'ten thousand': 10_000, million: 1_000_000, 'ten million': 10_000_000 };

/** The first rows of the builder's grid over tables of two sizes, asked in turns. */
export async function gridSizes(): Promise<Figure[]> {
  const names = ['ten thousand', 'million'] as const;
  return withMariadb(
    names.map((name) => `grid_${sizes[name]}`),
    async (address) => {
      const asked = {} as Record<(typeof names)[number], (i: number) => Promise<unknown>>;
      const sources: MariadbSource[] = [];
      for (const name of names) {
        const schema = `grid_${sizes[name]}`;
        await (await makeVisits(address, schema, sizes[name])).end();
        const source = new MariadbSource(address, schema, 2);
        sources.push(source);
        const visit = {
          definition: visitsDefinition(schema),
          catalogue: await source.catalogue(),
          person: builderPerson,
          moment: new Date(),
        };
        const columns = visit.catalogue.tables
          .find((table) => table.name === 'visits')!
          .columns.map((column) => [column.name]);
        asked[name] = () => page(source, visit, 'visits', { ...question, columns, size: 100 });
      }
      const times = await inTurns(asked, 400, 40);
      await Promise.all(sources.map((source) => source.close()));
      const [small, large] = names.map((name) => quantile(times[name], 0.5));
      return [
        {
          name: 'first 100 rows of a grid over a million rows, against ten thousand',
          ours: round(large!),
          reference: round(small!),
          unit: 'ms',
          ratio: round(large! / small!),
          aim: '1.2 or less',
        },
      ];
    },
  );
}

/**
 * One page of a member's own 200 or so visits through the gate, count included, in tables of three sizes that are asked
 * in turns.
 */
export async function listSizes(): Promise<Figure[]> {
  const names = Object.keys(sizes) as (keyof typeof sizes)[];
  const schemaOf = (name: keyof typeof sizes) => `visits_${sizes[name]}`;
  return withMariadb(names.map(schemaOf), async (address) => {
    const asked = {} as Record<keyof typeof sizes, (i: number) => Promise<unknown>>;
    const sources: MariadbSource[] = [];
    for (const name of names) {
      console.log(`making ${sizes[name]} visits …`);
      await (await makeVisits(address, schemaOf(name), sizes[name])).end();
      const source = new MariadbSource(address, schemaOf(name), 2);
      sources.push(source);
      const catalogue = await source.catalogue();
      const definition = visitsDefinition(schemaOf(name));
      const members = sizes[name] / perSampler;
      asked[name] = (i) =>
        gateList(
          source,
          { definition, catalogue, person: sampler(1 + ((i * 7919) % Math.min(members, 400))), moment: new Date() },
          'visits',
          question,
        );
    }
    const times = await inTurns(asked, 600, 60);
    await Promise.all(sources.map((source) => source.close()));
    const median = (name: keyof typeof sizes) => quantile(times[name], 0.5);
    return names.slice(1).map((name): Figure => ({
      name: `list of a ${name} rows, against ten thousand`,
      ours: round(median(name)),
      reference: round(median('ten thousand')),
      unit: 'ms',
      ratio: round(median(name) / median('ten thousand')),
      aim: '1.2 or less',
    }));
  });
}
