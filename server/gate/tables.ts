import { name, sql, type Sql } from '../../core/condition/sql';
import { isPathProblem, resolvePath, type Catalogue, type Column, type Relation, type Table } from '../../core/table/catalogue';

/** The tables of one statement: the one asked for as `t0`, and those that relations lead to, each joined once. */
export class Tables {
  private readonly joined = new Map<string, { alias: Sql; join: Sql; table: Table }>();
  readonly root = name('t0');

  constructor(
    private readonly catalogue: Catalogue,
    readonly table: Table,
  ) {}

  /** The alias of the table at the end of the relations, joining what is not joined yet. */
  at(steps: readonly Relation[]): Sql {
    let alias = this.root;
    let key = '';
    for (const step of steps) {
      key += `${key && '\n'}${step.name}`;
      let known = this.joined.get(key);
      if (!known) {
        const next = name(`t${this.joined.size + 1}`);
        const table = this.catalogue.tables.find((each) => each.name === step.table)!;
        const join = sql` LEFT JOIN ${name(step.table)} ${next} ON ${next}.${name(step.targetColumn)} = ${alias}.${name(step.column)}`;
        known = { alias: next, join, table };
        this.joined.set(key, known);
      }
      alias = known.alias;
    }
    return alias;
  }

  /** The raw column at the end of a path that starts after `from`. */
  raw(path: readonly string[], from: readonly Relation[] = [], start: Table = this.table): Sql {
    const found = resolvePath(this.catalogue, start, path);
    if (isPathProblem(found)) throw new Error(`there is no ${found.wanted} ${found.part} in ${found.table}`);
    return rawColumn(this.at([...from, ...found.steps]), found.column);
  }

  /** `wells t0 LEFT JOIN owners t1 ON …` with all that was asked for so far. */
  sql(): Sql {
    return [...this.joined.values()].reduce((text, each) => sql`${text}${each.join}`, sql`${name(this.table.name)} ${this.root}`);
  }
}

/** FLOAT is read as DOUBLE: its text form is rounded and would not compare as the stored number does. */
export function rawColumn(alias: Sql, column: Column): Sql {
  const plain = sql`${alias}.${name(column.name)}`;
  return column.nativeType.startsWith('float') ? sql`CAST(${plain} AS DOUBLE)` : plain;
}
