import { allOf } from '../../../core/condition/all-of';
import type { PersonGroup } from '../../../core/access/people';
import type { Rows } from '../../../core/access/rows';
import { columnOfFact, kindOf, memberFacts } from '../../../core/condition/operand-kind';
import type { ComparedAs } from '../../../core/sql/compared-as';
import type { FactSql } from '../../../core/condition/compile';
import { dialectOf } from '../../../core/dialect/of';
import { and, joined, name, sql, type Sql } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import type { Catalogue } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import type { Tables } from './tables';
import { yes, type ViewSql } from './view-sql';

/**
 * Many persons in one statement: their facts as the columns of a table that travels with it as JSON, so that nothing is
 * written and each rule is joined to the records instead of asked once a person.
 */
export class PeopleSql {
  private readonly alias = name('people');

  constructor(
    private readonly catalogue: Catalogue,
    private readonly facts: string[][],
    private readonly groups: readonly PersonGroup[],
  ) {}

  /** The group's place. */
  readonly group = sql`${this.alias}.${name('g')}`;

  /** Facts as columns, for compiling the rules. */
  readonly fact: FactSql = (operand) => {
    if (operand.kind !== 'member') return null;
    const i = this.facts.findIndex((fact) => JSON.stringify(fact) === JSON.stringify(operand.fact));
    return i < 0 ? null : sql`${this.alias}.${name(`f${i}`)}`;
  };

  /** The groups as a table of the statement. */
  table(): Sql {
    const rows = JSON.stringify(this.groups.map((group, i) => [i, ...group.facts.map(jsonValue)]));
    return dialectOf(this.catalogue).jsonRows(
      rows,
      this.facts.map((fact, i) => ({ name: name(`f${i}`), ...this.typeOf(fact) })),
      this.alias,
    );
  }

  private typeOf(fact: string[]): { as: ComparedAs; unsigned: boolean } {
    const column = columnOfFact(fact, this.catalogue);
    const kind = column ? kindOf(column) : (memberFacts.get(fact[0]!) ?? 'text');
    return { as: kind === 'none' ? 'text' : kind, unsigned: column?.nativeType.includes('unsigned') ?? false };
  }
}

function jsonValue(value: Value): unknown {
  if (typeof value === 'bigint') return String(value);
  if (Array.isArray(value)) return value.join(',');
  return typeof value === 'boolean' ? Number(value) : value;
}

const mostBranches = 8;

/**
 * Pairs of a group and a row for which at least one rule holds, as SELECTs to unite: each pair once, and each branch of
 * an OR by itself, so that each can use its index. `selected` gives what is wanted of a pair.
 */
export function pairs(
  people: PeopleSql,
  tablesOf: () => Tables,
  view: (tables: Tables) => ViewSql,
  rules: readonly Rows[],
  selected: (tables: Tables, view: ViewSql) => Sql,
): Sql[] {
  const branches = branchesOf(rules);
  return branches.map((branch, i) => {
    const tables = tablesOf();
    const compile = view(tables);
    const whole = (conditions: Condition[]): Sql =>
      conditions.length === 0
        ? yes
        : joined(
            conditions.map((each) => compile.condition(each, tables)),
            and,
          );
    const earlier = branches.slice(0, i).map((each) => sql`(${whole(each)}) IS NOT TRUE`);
    const list = selected(tables, compile);
    const where = joined([sql`(${whole(branch)})`, ...earlier], and);
    return sql`SELECT ${list} FROM ${people.table()} CROSS JOIN ${tables.sql()} WHERE ${where}`;
  });
}

function branchesOf(rules: readonly Rows[]): Condition[][] {
  const divided = rules
    .filter((rows) => rows !== 'no row')
    .flatMap((rows) => divide((rows as Exclude<Rows, 'no row'>).map((part) => part.where)));
  const distinct = [...new Map(divided.map((conditions) => [JSON.stringify(conditions), conditions])).values()];
  if (distinct.some((conditions) => conditions.length === 0)) return [[]];
  if (distinct.length <= mostBranches) return distinct;
  return [
    [
      {
        kind: 'any',
        parts: distinct.map(allOf),
      },
    ],
  ];
}

/** All of the conditions, with the first OR among them taken apart. */
export function divide(conditions: Condition[]): Condition[][] {
  const at = conditions.findIndex((condition) => condition.kind === 'any');
  const any = conditions[at];
  return any?.kind === 'any' ? any.parts.map((part) => conditions.with(at, part)) : [conditions];
}

/** The rules' outcomes as 1 or 0, one column each. */
export function flags(rules: readonly Rows[], tables: Tables, view: ViewSql): Sql[] {
  return rules.map((rows) => sql`((${view.filter(rows, tables)}) IS TRUE)`);
}
