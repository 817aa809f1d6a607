import { countCondition, countForPeople, count, list } from '../server/gate/gate';
import { createConnection } from 'mariadb';
import { demoDefinition } from '../demo/definition';
import { loadTables } from '../demo/load';
import { builderPerson, type Person } from '../core/access/person';
import type { KnownPerson } from '../core/access/people';
import { whoSees } from '../core/access/who';
import { parseCondition } from '../core/condition/parse';
import { emptyDefinition, type PortalDefinition } from '../core/definition/definition';
import { findTable, withManyRelations, type Catalogue, type Column } from '../core/table/catalogue';
import { MariadbSource } from '../server/sources/mariadb';
import { quantile, round, type Figure } from './figures';
import { withMariadb } from './local-databases';
import { growToMillion } from './million';

const when = (text: string) => parseCondition(text).condition;

/**
 * What the Access stage asks after every change: Seen by with its numbers, and the numbers beside a condition; and who
 * sees what of a large portal.
 */
export async function access(): Promise<Figure[]> {
  return withMariadb(['alder_fen'], async (address) => {
    await loadTables(address, 'alder_fen');
    const plain = await createConnection({ ...address, database: 'alder_fen' });
    const source = new MariadbSource(address, 'alder_fen', 4);
    try {
      const demo = await refreshing(source, plain, 40);
      await growToMillion(address, 'alder_fen');
      const million = await refreshing(source, plain, 12);
      return [
        {
          name: "Seen by and the person's numbers after a change, demo, 95th percentile",
          ours: demo.seen,
          reference: demo.bare,
          unit: 'ms',
          ratio: round(demo.seen / demo.bare),
          aim: '300 ms or less',
        },
        {
          name: 'the numbers for all members of a role, demo, 95th percentile',
          ours: demo.role,
          reference: demo.bare,
          unit: 'ms',
          ratio: round(demo.role / demo.bare),
          aim: '300 ms or less',
        },
        {
          name: "Seen by and the person's numbers after a change, a million rows, 95th percentile",
          ours: million.seen,
          reference: million.bare,
          unit: 'ms',
          ratio: round(million.seen / million.bare),
          aim: '1000 ms or less',
        },
        {
          name: 'the numbers for 500 of the 5000 members of a role, a million rows, 95th percentile',
          ours: million.role,
          reference: million.bare,
          unit: 'ms',
          ratio: round(million.role / million.bare),
          aim: '1000 ms or less',
        },
        whoFigure(),
      ];
    } finally {
      await source.close();
      await plain.end();
    }
  });
}

/** In milliseconds; the reference is a bare COUNT of the person's rows and of all rows, one after the other. */
async function refreshing(
  source: MariadbSource,
  plain: Awaited<ReturnType<typeof createConnection>>,
  times: number,
): Promise<{ seen: number; role: number; bare: number }> {
  const catalogue = await source.catalogue(true);
  const visits = findTable(catalogue, 'visits')!;
  const condition = when('sampler_id = :member.samplers.id OR planned_by = :member.id');
  // As the stage asks first: some of a large role.
  const samplers = (await plain.query<unknown[][]>({ rowsAsArray: true, sql: 'SELECT id FROM samplers' }))
    .map(([id]) => Number(id))
    .filter((_, i, all) => all.length <= 500 || i % Math.ceil(all.length / 500) === 0);
  const people = samplers.map((id): KnownPerson => ({
    id,
    name: `Sampler ${id}`,
    email: `s${id}@example.org`,
    organisation: null,
    rows: { samplers: { id } },
  }));
  const person: Person = {
    kind: 'member',
    id: 9,
    email: 's9@example.org',
    organisation: null,
    roles: ['sampler'],
    rows: { samplers: { id: 9 } },
  };
  const taken = { seen: [] as number[], role: [] as number[], bare: [] as number[] };
  for (let i = 0; i < times; i++) {
    // A draft that nobody has asked anything of yet, as after a change.
    const definition: PortalDefinition = structuredClone(demoDefinition('alder_fen'));
    const visit = { definition, catalogue, person, moment: new Date() };
    let from = performance.now();
    await Promise.all([
      count(source, visit, 'visits').then(() =>
        list(source, visit, 'visits', {
          columns: [['state'], ['planned_for'], ['well', 'code']],
          sort: [],
          where: [],
          search: '',
          after: null,
          before: null,
          size: 8,
        }),
      ),
      count(source, { ...visit, person: builderPerson }, 'visits'),
      countCondition(source, visit, visits, condition),
    ]);
    taken.seen.push(performance.now() - from);
    from = performance.now();
    await countForPeople({ runner: source, catalogue, definition, moment: new Date() }, visits, condition, people);
    taken.role.push(performance.now() - from);
    from = performance.now();
    await plain.query('SELECT COUNT(*) FROM visits WHERE sampler_id = 9 OR planned_by = 9');
    await plain.query('SELECT COUNT(*) FROM visits');
    taken.bare.push(performance.now() - from);
  }
  return {
    seen: round(quantile(taken.seen, 0.95), 1),
    role: round(quantile(taken.role, 0.95), 1),
    bare: round(quantile(taken.bare, 0.95), 1),
  };
}

/**
 * 60 tables with 900 columns of one data class, 20 roles that are granted all, 10,000 members with one to three of
 * them. The reference is the aim.
 */
function whoFigure(): Figure {
  const column = (name: string, key = false): Column => ({
    name,
    type: key ? 'whole number' : 'text',
    nativeType: 'text',
    nullable: true,
    hasDefault: false,
    automatic: key,
    unique: false,
    ...(key ? {} : { collation: 'utf8mb4_general_ci' }),
  });
  const catalogue: Catalogue = withManyRelations({
    schema: 'large',
    tables: Array.from({ length: 60 }, (_, i) => ({
      name: `t${i}`,
      key: ['id'],
      relations: [],
      columns: [column('id', true), ...Array.from({ length: 14 }, (_each, j) => column(`c${j}`))],
    })),
  });
  const definition = emptyDefinition({ slug: 'large', name: 'Large', timeZone: 'UTC', colour: '#1f5f85' }, 'large');
  const roles = Array.from({ length: 20 }, (_, i) => `r${i}`);
  definition.roles = roles.map((id) => ({ id, name: id }));
  definition.rosters = roles.map((role) => ({ table: role, name: 'name', email: 'email', role }));
  for (const table of catalogue.tables) {
    definition.tables[table.name] = {
      columns: Object.fromEntries(table.columns.map((each) => [each.name, { dataClass: 'identity' as const }])),
    };
    definition.access[table.name] = Object.fromEntries(
      roles.map((role, i) => [
        role,
        {
          see: {
            where: when(`c${i % 14} = 'x'`),
            columns: table.columns.filter((_, j) => (i + j) % 3 > 0).map((each) => each.name),
          },
        },
      ]),
    );
  }
  definition.masks = [
    { id: 'm', dataClass: 'identity', mask: { style: 'initials' }, to: ['r1', 'r2'], exceptRoles: [] },
  ];
  const people = Array.from({ length: 10_000 }, (_, i): KnownPerson => ({
    id: i,
    name: `Member ${i}`,
    email: `m${i}@example.org`,
    organisation: null,
    rows: Object.fromEntries([i % 20, (i * 7) % 20, (i * 13 + (i % 11)) % 20].map((role) => [`r${role}`, { id: i }])),
  }));
  const from = performance.now();
  const found = whoSees(
    definition,
    catalogue,
    people,
    catalogue.tables.flatMap((table) => table.columns.map((each) => ({ table: table.name, column: each.name }))),
  );
  const seconds = (performance.now() - from) / 1000;
  if (found.length !== 900 || found[5]!.people.flatMap((group) => group.people).length < 5000)
    throw new Error('who sees what has lost somebody');
  return {
    name: 'who sees what of 900 columns, 20 roles and 10000 members',
    ours: round(seconds, 2),
    reference: 5,
    unit: 's',
    ratio: round(seconds / 5),
    aim: '5 s or less',
  };
}
