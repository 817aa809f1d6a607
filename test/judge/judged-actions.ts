import type { Action, StepValue } from '../../core/definition/action';
import type { RowFilter } from '../../core/definition/definition';
import { findColumn, type Table } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { say } from './postgres-rules';
import { Random } from './random';
import { anyCondition, roles, type Scenario } from './scenario';

/**
 * Actions as PostgreSQL would have them: an action that sets columns is an UPDATE of those columns alone (column
 * privileges, PostgreSQL 15 manual, GRANT) under a policy of its own, by a role that is granted nothing else.
 */

/** One random action for each table, which sets what the scenario's attempt changes. */
export function randomActions({ seed, catalogue, attempts }: Scenario): Action[] {
  const random = new Random(seed ^ 0xac7);
  return catalogue.tables
    .filter(({ name }) => name !== 'people')
    .map((table): Action => {
      const keepIn: Pick<Action, 'keepIn'> = random.chance(0.6)
        ? {}
        : { keepIn: random.chance(0.5) ? 'every row' : anyCondition(random, catalogue, table, 1) };
      return {
        id: `act-${table.name}`,
        name: 'Act',
        table: table.name,
        roles: random.some(roles, 0.7),
        ...(random.chance(0.6) ? { where: anyCondition(random, catalogue, table, 1) } : {}),
        ...keepIn,
        asks: [],
        steps: [
          {
            kind: 'set',
            values: Object.fromEntries(
              Object.entries(attempts[table.name]!.change).map(([column, value]) => [
                column,
                asStep(table, column, value),
              ]),
            ),
          },
        ],
      };
    });
}

function asStep(table: Table, column: string, value: Value): StepValue {
  if (value === null) return { kind: 'nothing' };
  const { type } = findColumn(table, column)!;
  if (type === 'yes/no') return { kind: 'boolean', value: value === true };
  return type === 'whole number' || type === 'decimal'
    ? { kind: 'number', digits: String(value) }
    : { kind: 'text', text: String(value) };
}

/** `v1` sees as `r1` does and does nothing; `a1` may do the actions of `r1` and sees nothing by itself. */
export const actorRoles: readonly string[] = [
  ...roles.flatMap((_, i) => [`CREATE ROLE v${i + 1}`, `CREATE ROLE a${i + 1}`]),
  ...Array.from({ length: 2 ** roles.length }, (_, set) =>
    roles.flatMap((_role, i) => [
      `CREATE ROLE s${set}_${i}`,
      `GRANT a${i + 1} TO s${set}_${i}`,
      ...roles.flatMap((_each, n) => (set & (1 << n) ? [`GRANT v${n + 1} TO s${set}_${i}`] : [])),
    ]),
  ).flat(),
];

export function actionPolicies({ catalogue, definition }: Scenario, actions: readonly Action[]): string[] {
  return catalogue.tables.flatMap((table) =>
    roles.flatMap((role, i) => {
      const see = definition.access[table.name]?.[role]?.see;
      if (table.name === 'people' || !see) return [];
      const fences = (definition.fences ?? []).filter(
        (fence) => fence.table === table.name && fence.exceptRoles.length > 0 && !fence.exceptRoles.includes(role),
      );
      const all = (...filters: (RowFilter | undefined)[]) =>
        [...filters, ...fences.map(({ where }) => where)]
          .map((each) => (each === undefined || each === 'every row' ? 'TRUE' : `(${say(each, table, catalogue)})`))
          .join(' AND ');
      const action = actions.find((each) => each.table === table.name && each.roles.includes(role));
      const set = action?.steps[0]?.kind === 'set' ? Object.keys(action.steps[0].values).join(', ') : '';
      return [
        `CREATE POLICY v${i + 1}_see ON ${table.name} FOR SELECT TO v${i + 1} USING (${all(see.where)})`,
        ...(action
          ? [
              `GRANT UPDATE (${set}) ON ${table.name} TO a${i + 1}`,
              `CREATE POLICY a${i + 1}_act ON ${table.name} FOR UPDATE TO a${i + 1} ` +
                `USING (${all(see.where, action.where)}) WITH CHECK (${all(action.keepIn ?? see.where)})`,
            ]
          : []),
      ];
    }),
  );
}
