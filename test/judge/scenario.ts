import {
  emptyDefinition,
  type Grant,
  type Fence,
  type MaskRule,
  type PortalDefinition,
  type RowFilter,
} from '../../core/definition/definition';
import type { Comparison, Condition, Operand } from '../../core/condition/tree';
import type { Mask } from '../../core/mask/mask';
import { checkCondition } from '../../core/condition/check';
import type { Person } from '../../core/access/person';
import { withManyRelations, type Catalogue, type Table } from '../../core/table/catalogue';
import type { Row, Value } from '../../core/table/value';
import { column } from '../wells';
import { Random } from './random';

/** A random portal over random tables, rows and persons; everything follows from the seed. */
export interface Scenario {
  seed: number;
  catalogue: Catalogue;
  rows: Record<string, Row[]>;
  definition: PortalDefinition;
  persons: Person[];
  /** For each table the change that everyone tries on every record, and the records that everyone tries to make. */
  attempts: Record<string, { change: Row; made: Row[] }>;
}

export const roles = ['r1', 'r2', 'r3'];
export const today = '2026-11-23';
const dates = ['2026-10-01', '2026-11-23', '2026-12-31'];
const domains: Record<string, Value[]> = {
  n: [0, 1, 2, 3],
  t: ['x', 'y', 'Z', 'ab'],
  d: dates,
  y: [true, false],
  m: ['0.50', '1.00', '2.25'],
};

export function makeScenario(seed: number): Scenario {
  const random = new Random(seed);
  const catalogue = makeCatalogue(random);
  const rows = Object.fromEntries(catalogue.tables.map((table) => [table.name, [] as Row[]]));
  for (const table of catalogue.tables) {
    for (let id = 1; id <= 4 + random.below(3); id++) rows[table.name]!.push({ id, ...anyValues(random, table, rows) });
  }
  const tables = catalogue.tables.filter((table) => table.name !== 'people');
  const definition = makeDefinition(random, catalogue, tables);
  const persons = Array.from({ length: 4 }, (_, i): Person => ({
    kind: 'member',
    id: 1 + i,
    email: `p${i}@example.org`,
    organisation: random.chance(0.5) ? 'x' : null,
    roles: random.some(roles, 0.55),
    rows: random.chance(0.8) ? { people: random.pick(rows.people!) } : {},
  }));
  const attempts = Object.fromEntries(
    tables.map((table) => {
      const changed = random.pick(table.columns.filter((each) => each.name !== 'id')).name;
      const also = random.pick(table.columns.filter((each) => each.name !== 'id')).name;
      const values = anyValues(random, table, rows);
      const change: Row = { [changed]: values[changed]!, ...(random.chance(0.3) ? { [also]: values[also]! } : {}) };
      return [
        table.name,
        { change, made: [100, 101, 102].map((id): Row => ({ id, ...anyValues(random, table, rows) })) },
      ];
    }),
  );
  return { seed, catalogue, rows, definition, persons, attempts };
}

/** Two or three tables, each pointing to those before it, and a roster. */
function makeCatalogue(random: Random): Catalogue {
  const key = () => column('id', 'whole number', { nullable: false });
  const kinds = { n: 'whole number', t: 'text', d: 'date', y: 'yes/no', m: 'decimal' } as const;
  const own = () => {
    const chosen = random.some(Object.keys(kinds) as (keyof typeof kinds)[], 0.75);
    return (chosen.length ? chosen : ['n' as const]).map((name) =>
      column(
        name,
        kinds[name],
        name === 't' ? { collation: 'utf8mb4_bin', maxLength: 20 } : name === 'm' ? { precision: 6, scale: 2 } : {},
      ),
    );
  };
  const table = (name: string, parents: string[]): Table => ({
    name,
    key: ['id'],
    relations: parents.map((parent) => ({ name: parent, column: `${parent}_id`, table: parent, targetColumn: 'id' })),
    columns: [key(), ...parents.map((parent) => column(`${parent}_id`, 'whole number')), ...own()],
  });
  const tables: Table[] = [
    {
      name: 'people',
      key: ['id'],
      relations: [],
      columns: [
        key(),
        ...(['n', 't', 'd'] as const).map((name) =>
          column(name, kinds[name], name === 't' ? { collation: 'utf8mb4_bin', maxLength: 20 } : {}),
        ),
      ],
    },
    table('a', []),
    table('b', ['a']),
  ];
  if (random.chance(0.6)) tables.push(table('c', random.chance(0.5) ? ['b'] : ['b', 'a']));
  return withManyRelations({ schema: 'judge', tables });
}

function anyValues(random: Random, table: Table, rows: Record<string, Row[]>): Row {
  return Object.fromEntries(
    table.columns
      .filter((each) => each.name !== 'id')
      .map((each) => {
        const relation = table.relations.find((one) => one.column === each.name);
        const values = relation ? rows[relation.table]!.map((row) => row.id!) : domains[each.name]!;
        return [each.name, values.length === 0 || random.chance(0.2) ? null : random.pick(values)];
      }),
  );
}

function makeDefinition(random: Random, catalogue: Catalogue, tables: Table[]): PortalDefinition {
  const filter = (table: Table): RowFilter =>
    random.chance(0.15) ? 'every row' : anyCondition(random, catalogue, table, 2);
  const filterOrSeen = (table: Table) => (random.chance(0.3) ? ('as seen' as const) : filter(table));
  const access: PortalDefinition['access'] = {};
  for (const table of tables) {
    const all = table.columns.map((each) => each.name);
    for (const role of random.some(roles, 0.75)) {
      const see = random.chance(0.85) ? { where: filter(table), columns: all } : undefined;
      const seen = () => (see ? filterOrSeen(table) : filter(table));
      const grant: Grant = {
        ...(see ? { see } : {}),
        ...(random.chance(0.6)
          ? { create: { columns: all, ...(random.chance(0.6) ? { keepIn: filter(table) } : {}) } }
          : {}),
        ...(random.chance(0.7)
          ? { edit: { where: seen(), columns: all.slice(1), ...(random.chance(0.5) ? { keepIn: filter(table) } : {}) } }
          : {}),
        ...(random.chance(0.6) ? { delete: { where: seen() } } : {}),
      };
      (access[table.name] ??= {})[role] = grant;
    }
  }
  const fences = Array.from({ length: random.below(3) }, (_, i): Fence => {
    const table = random.pick(tables);
    return {
      id: `f${i}`,
      table: table.name,
      where: anyCondition(random, catalogue, table, 1),
      exceptRoles: random.chance(0.5) ? [] : random.some(roles, 0.4),
    };
  });
  return {
    ...emptyDefinition({ slug: 'judge', name: 'Judge', timeZone: 'UTC', colour: '#1f5f85' }, 'judge'),
    roles: roles.map((id) => ({ id, name: id })),
    rosters: [{ table: 'people', name: 't', email: 't', role: 'r1' }],
    access,
    fences,
  };
}

/** The same portal with columns shown to some roles only, and masks: what a row's judge can't express. */
export function withColumns(scenario: Scenario): PortalDefinition {
  const random = new Random(scenario.seed ^ 0x5eed);
  const definition = structuredClone(scenario.definition);
  for (const grants of Object.values(definition.access))
    for (const grant of Object.values(grants)) if (grant.see) grant.see.columns = random.some(grant.see.columns, 0.7);
  const styles: Record<string, Mask[]> = {
    n: [{ style: 'all' }, { style: 'step', size: '2' }],
    t: [{ style: 'all' }, { style: 'keep last', count: 1 }, { style: 'keep first', count: 1 }, { style: 'initials' }],
    d: [{ style: 'all' }, { style: 'year' }, { style: 'month' }],
    y: [{ style: 'all' }],
    m: [{ style: 'all' }, { style: 'round', digits: 0 }],
  };
  for (const table of scenario.catalogue.tables) {
    for (const each of table.columns) {
      if (!styles[each.name] || random.chance(0.4)) continue;
      for (let i = 0; i <= random.below(2); i++) {
        definition.masks.push({
          id: `m${definition.masks.length}`,
          table: table.name,
          column: each.name,
          mask: random.pick(styles[each.name]!),
          to: random.chance(0.5) ? 'everyone' : [random.pick(roles)],
          exceptRoles: random.some(roles, 0.2),
          ...(random.chance(0.2) ? { exceptMembers: [random.pick(scenario.persons).email!] } : {}),
        } satisfies MaskRule);
      }
    }
  }
  return definition;
}

const comparisons: Comparison[] = ['=', '<>', '<', '<=', '>', '>='];

/**
 * `root` is the table whose records are judged. Inside EXISTS no path leads back to it: while PostgreSQL checks a
 * changed record, a subselect still reads the statement's snapshot and so the record as it was before; ours reads it as
 * it is after.
 */
export function anyCondition(
  random: Random,
  catalogue: Catalogue,
  table: Table,
  depth: number,
  root = table.name,
): Condition {
  if (depth > 0 && random.chance(0.55)) {
    if (random.chance(0.25)) return { kind: 'not', part: anyCondition(random, catalogue, table, depth - 1, root) };
    return {
      kind: random.chance(0.5) ? 'any' : 'all',
      parts: [
        anyCondition(random, catalogue, table, depth - 1, root),
        anyCondition(random, catalogue, table, depth - 1, root),
      ],
    };
  }
  for (;;) {
    const leaf = anyLeaf(random, catalogue, table, depth, root);
    if (checkCondition(leaf, { catalogue, table, member: true }).length === 0) return leaf;
  }
}

function anyLeaf(random: Random, catalogue: Catalogue, table: Table, depth: number, root: string): Condition {
  const path = anyPath(random, catalogue, table, root);
  const name = path.at(-1)!;
  const left: Operand = { kind: 'column', path };
  const other = (): Operand => {
    if (random.chance(0.3))
      return {
        kind: 'member',
        fact: random.pick([
          ['people', 'n'],
          ['people', 't'],
          ['people', 'd'],
          ['people', 'id'],
          ['organisation'],
          ['id'],
        ]),
      };
    if (random.chance(0.15)) return { kind: 'column', path: anyPath(random, catalogue, table, root) };
    if (name === 'd' && random.chance(0.5))
      return random.chance(0.5)
        ? { kind: 'clock', what: 'today' }
        : {
            kind: 'shifted',
            of: { kind: 'clock', what: 'today' },
            count: random.pick([-60, -1, 1, 40]),
            unit: random.pick(['DAY', 'MONTH']),
          };
    const value = random.pick(domains[name] ?? [1, 2, 3, 4]);
    return typeof value === 'boolean'
      ? { kind: 'boolean', value }
      : name === 't' || name === 'd'
        ? { kind: 'text', text: String(value) }
        : { kind: 'number', digits: String(value) };
  };
  const many = table.many ?? [];
  switch (random.below(many.length ? 7 : 6)) {
    case 0:
      return { kind: 'null', left };
    case 1:
      return { kind: 'in', left, list: [other(), other()] };
    case 2:
      return { kind: 'between', left, low: other(), high: other() };
    case 3:
      return { kind: 'like', left, pattern: { kind: 'text', text: random.pick(['%', 'a%', '_', '%b', 'x']) } };
    case 6: {
      const relation = random.pick(many);
      const inner = catalogue.tables.find((each) => each.name === relation.table)!;
      return {
        kind: 'exists',
        relation: [relation.name],
        where: random.chance(0.2) ? null : anyCondition(random, catalogue, inner, depth - 1, root),
      };
    }
    default:
      return { kind: 'compare', left, comparison: random.pick(comparisons), right: other() };
  }
}

function anyPath(random: Random, catalogue: Catalogue, table: Table, root: string): string[] {
  const onward = table.relations.filter((relation) => relation.table !== root);
  if (onward.length && random.chance(0.25)) {
    const relation = random.pick(onward);
    return [
      relation.name,
      ...anyPath(
        random,
        catalogue,
        catalogue.tables.find((each) => each.name === relation.table)!,
        root,
      ),
    ];
  }
  return [random.pick(table.columns).name];
}
