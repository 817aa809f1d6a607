import { afterAll, beforeAll, expect, inject, it } from 'vitest';
import type { Connection } from 'mariadb';
import { lensOf } from '../../core/access/lens';
import { contextOf, type Person } from '../../core/access/person';
import { opennessCases, viewOf } from '../../core/access/view';
import { evaluate } from '../../core/condition/evaluate';
import type { Condition } from '../../core/condition/tree';
import type { Page, PortalDefinition } from '../../core/definition/definition';
import type { Section } from '../../core/definition/section-kinds';
import type { Catalogue, Table } from '../../core/table/catalogue';
import type { Row, Value } from '../../core/table/value';
import type { CardsSection } from '../../sections/cards/spec';
import type { ChartSection } from '../../sections/chart/spec';
import type { FigureSection } from '../../sections/figure/spec';
import type { ListSection } from '../../sections/list/spec';
import { serveOf } from '../../sections/serves';
import { loadIntoMariadb } from '../../test/judge/load';
import { plainCell } from '../../test/judge/plain-cells';
import { Random } from '../../test/judge/random';
import { anyCondition, makeScenario, roles, today, withColumns, type Scenario } from '../../test/judge/scenario';
import { MemoryRecords } from '../../test/memory-records';
import { freshSchema } from '../../test/tables';
import { BadQuestion, NotFound, type PlacedVisit } from '../gate/gate';
import { MariadbSource } from '../sources/mariadb';
import { tries } from '../../test/thorough';

/**
 * Random portals, people and pages: whatever stands in a page's answer is held against what core makes of the rules in
 * memory, record by record and cell by cell. Columns and masks are read by the judge's plain reading.
 */
let connection: Connection;
let source: MariadbSource;

beforeAll(async () => {
  connection = await freshSchema(inject('database'), 'any_pages');
  source = new MariadbSource(inject('database'), 'any_pages');
});
afterAll(async () => {
  await source?.close();
  await connection?.end();
});

/** What a person sees of a table, by the record's id: of each column how it is shown, and what of it. */
type Seen = Map<string, Record<string, unknown[]>>;

function seenInMemory(definition: PortalDefinition, memory: MemoryRecords, person: Person, table: Table): Seen {
  const { catalogue } = memory;
  const context = contextOf(person, new Date(`${today}T12:00:00Z`), 'UTC');
  const scope = { catalogue, table, member: true };
  const has = (role: string, row: Row): boolean => {
    const rows = lensOf(definition, catalogue, table, role, person)?.rows ?? 'no row';
    const reader = memory.record(table.name, row);
    return rows !== 'no row' && rows.every(({ where }) => evaluate(where, scope, reader, context) === true);
  };
  const cells = (row: Row, own: string[]) =>
    Object.fromEntries(
      table.columns.map(({ name }) => [name, plainCell(definition, person, table.name, name, row[name]!, own)]),
    );
  return new Map(
    memory.rows[table.name]!.flatMap((row) => {
      const own = person.roles.filter((role) => has(role, row));
      return own.length === 0 ? [] : [[String(row.id), cells(row, own)] as const];
    }),
  );
}

interface Case {
  visit: PlacedVisit;
  table: Table;
  seen: Record<string, Seen>;
  seed: number;
}

const noted = { records: 0, cells: 0, along: 0, numbers: 0, refused: 0 };

/** The cell that a path leads to, for whoever sees every step of it. */
function cellAt({ visit, table, seen }: Case, id: string, [first, ...rest]: string[]): unknown[] {
  const cells = seen[table.name]!.get(id)!;
  if (rest.length === 0) return cells[first!]!;
  const relation = table.relations.find(({ name }) => name === first)!;
  const [level, key] = cells[relation.column]!;
  if (level !== 'shown' || key === null || !seen[relation.table]!.has(String(key))) return ['hidden'];
  const there = visit.catalogue.tables.find(({ name }) => name === relation.table)!;
  return cellAt({ visit, seen, seed: 0, table: there }, String(key), rest);
}

type Answer = Awaited<ReturnType<NonNullable<ReturnType<typeof serveOf>['list']>>>;

function holdRecords(of: Case, section: { columns: string[] }, answer: Answer, isWhole: boolean): void {
  const { seed, table, seen, visit } = of;
  const where = [seed, visit.person.email, table.name, section];
  const own = seen[table.name]!;
  const ids = answer.records.map(({ id }) => id!);
  expect([where, ids.filter((id) => !own.has(id))]).toEqual([where, []]);
  if (isWhole) expect([where, ids.toSorted(), answer.total]).toEqual([where, [...own.keys()].toSorted(), own.size]);
  for (const record of answer.records)
    for (const path of Object.keys(record.values)) {
      const parts = path.split('.');
      const given = [record.masked.includes(path) ? 'masked' : 'shown', record.values[path]];
      const held = cellAt(of, record.id!, parts);
      noted.cells++;
      if (parts.length > 1) noted.along++;
      // Along a relation that leads nowhere for them there is nothing, and no word of why: a veil looks as ever.
      const isNothing =
        parts.length > 1 && held[0] === 'hidden' && (record.values[path] === null || record.values[path] === '••••');
      if (!isNothing) expect([where, record.id, path, given]).toEqual([where, record.id, path, held]);
    }
  noted.records += ids.length;
}

/**
 * The number of a measure over what is shown of a column. Of what is masked to a number the least and the most are
 * those of the numbers that are shown, and nothing of it is summed up.
 */
function measured(seen: Seen, measure: FigureSection['measure'], column: string | undefined): Value {
  if (measure === 'count') return seen.size;
  const isSum = measure === 'sum';
  const numbers = [...seen.values()].flatMap((cells) => {
    const [level, value = null] = cells[column!]! as [string, Value?];
    const isTaken = level === 'shown' || (level === 'masked' && !isSum && /^[\d.]+(–[\d.]+)?$/.test(String(value)));
    return isTaken && value !== null ? [Number(keyText(value))] : [];
  });
  if (numbers.length === 0) return null;
  if (isSum) return numbers.reduce((sum, value) => sum + value, 0);
  return measure === 'minimum' ? Math.min(...numbers) : Math.max(...numbers);
}

/** A step stands in groups by where it begins. */
const keyText = (value: Value): string => (value === null ? 'nothing' : String(value).split('–')[0]!);
const asNumber = (value: Value): Value => (value === null ? null : Number(value));

async function holdNumbers(of: Case, page: Page, random: Random): Promise<void> {
  const { visit, table, seen, seed } = of;
  const own = seen[table.name]!;
  const numbers = table.columns.filter(({ name }) => ['n', 'm'].includes(name)).map(({ name }) => name);
  const measure = random.pick(['count', 'sum', 'minimum', 'maximum'] as const);
  const column = numbers.length === 0 ? undefined : random.pick(numbers);
  if (measure !== 'count' && column === undefined) return;
  const figure: FigureSection = {
    id: 'figure',
    kind: 'figure',
    table: table.name,
    measure,
    ...(measure === 'count' ? {} : { column: column! }),
    where: 'every row',
  };
  const plain = { view: '', filter: '', search: '' };
  // Where one role shows a column otherwise than another, all of it is taken by what shows least.
  const isMixed = (name: string | undefined) =>
    name !== undefined &&
    opennessCases(viewOf(visit.definition, visit.catalogue, table, visit.person), name).length > 1;
  const { taken } = await serveOf(figure).figure!(visit, figure, page, plain);
  const where = [seed, visit.person.email, table.name, measure, column];
  const number = 'number' in taken! ? taken.number : null;
  if (!isMixed(column)) expect([where, asNumber(number)]).toEqual([where, asNumber(measured(own, measure, column))]);
  const by = random.pick(table.columns).name;
  const chart: ChartSection = {
    id: 'chart',
    kind: 'chart',
    table: table.name,
    form: 'bars',
    measure: 'count',
    by: { column: by },
    where: 'every row',
  };
  const { groups } = await serveOf(chart).chart!(visit, chart, page, { ...plain, draw: '' });
  const expected = new Map<string, number>();
  for (const cells of own.values()) {
    const [level, value = null] = cells[by]!;
    // What is not theirs to see stands with what is empty.
    const key = keyText(level === 'hidden' ? null : (value as Value));
    expected.set(key, (expected.get(key) ?? 0) + 1);
  }
  const bars = groups.map(({ key, values }) => [keyText(key![0]!), Number(values[0])] as const);
  for (const [key, count] of isMixed(by) ? [] : bars)
    expect([where, by, key, count]).toEqual([where, by, key, expected.get(key) ?? 0]);
  expect([where, by, bars.reduce((sum, [, count]) => sum + count, 0)]).toEqual([where, by, own.size]);
  noted.numbers += 2;
}

const orNothing = async <T>(work: () => Promise<T>): Promise<T | null> => {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof NotFound) && !(error instanceof BadQuestion)) throw error;
    noted.refused++;
    return null;
  }
};

async function holdPages(of: Case, random: Random): Promise<void> {
  const { visit, table, seen } = of;
  const paths = [
    ...table.columns.map(({ name }) => name),
    ...table.relations.flatMap((relation) =>
      visit.catalogue.tables
        .find(({ name }) => name === relation.table)!
        .columns.map(({ name }) => `${relation.name}.${name}`),
    ),
  ];
  const columns = random.some(paths, 0.6);
  if (columns.length === 0) columns.push('id');
  const condition = (): Condition => anyCondition(random, visit.catalogue, table, 1);
  const whole: ListSection = { id: 'list', kind: 'list', table: table.name, columns, sort: [], where: 'every row' };
  const sections: (ListSection | CardsSection)[] = [
    whole,
    { ...whole, id: 'narrowed', where: condition(), sort: [{ column: random.pick(columns), descending: true }] },
    { ...whole, id: 'tabs', tabs: [{ id: 't', name: 'T', where: condition() }] },
    {
      id: 'cards',
      kind: 'cards',
      table: table.name,
      columns: columns.slice(0, 8),
      across: 2,
      sort: [],
      where: 'every row',
    },
  ];
  const page: Page = { id: 'p', title: 'P', intro: '', audience: { roles: 'everyone' }, sections };
  const shownBySome = new Set(
    visit.person.roles.flatMap((role) => visit.definition.access[table.name]?.[role]?.see?.columns ?? []),
  );
  for (const section of sections) {
    const told = (await serveOf(section as Section).tell(visit, section as Section, page)) as {
      columns: { path: string }[];
    };
    expect(told.columns.filter(({ path }) => !path.includes('.') && !shownBySome.has(path))).toEqual([]);
    const answer = await orNothing(() =>
      serveOf(section as Section).list!(visit, section as Section, { filter: '', search: '', size: 200 }),
    );
    const isWhole = section.where === 'every row' && !('tabs' in section);
    if (answer) holdRecords(of, section, answer, isWhole);
    else if (isWhole) expect([section.id, seen[table.name]!.size]).toEqual([section.id, 0]);
  }
  await orNothing(() => holdNumbers(of, page, random));
}

const visitOf = (definition: PortalDefinition, catalogue: Catalogue, person: Person): PlacedVisit => ({
  definition,
  catalogue,
  person,
  moment: new Date(`${today}T12:00:00Z`),
  source,
});

async function play(seed: number): Promise<void> {
  const scenario: Scenario = makeScenario(seed);
  const catalogue = await loadIntoMariadb(scenario, connection, source);
  const definition = withColumns(scenario);
  const memory = new MemoryRecords(catalogue, scenario.rows);
  const random = new Random(seed);
  for (const person of scenario.persons) {
    const visit = visitOf(definition, catalogue, person);
    const tables = catalogue.tables.filter(({ name }) => name !== 'people');
    const seen = Object.fromEntries(
      tables.map((table) => [table.name, seenInMemory(definition, memory, person, table)]),
    );
    seen.people = seenInMemory(
      definition,
      memory,
      person,
      catalogue.tables.find(({ name }) => name === 'people')!,
    );
    for (const table of tables) await holdPages({ visit, table, seen, seed }, random);
  }
}

it('nothing that any page answers is outside the view, and what is whole is whole', { timeout: 300_000 }, async () => {
  for (let seed = 7001; seed <= 7000 + tries(10, 40); seed++) await play(seed);
  console.log(`any pages: ${JSON.stringify(noted)}, by ${roles.length} roles`);
  // Pages that showed nothing, or numbers that were never asked, would prove nothing.
  expect(noted.records).toBeGreaterThan(tries(250, 1000));
  expect(noted.cells).toBeGreaterThan(tries(750, 3000));
  expect(noted.along).toBeGreaterThan(tries(100, 400));
  expect(noted.numbers).toBeGreaterThan(tries(50, 200));
});
