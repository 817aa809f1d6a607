import type { RecordSql } from '../../../core/condition/compile';
import { name, sql, type Sql } from '../../../core/sql/sql';
import { dialectOf } from '../../../core/dialect/of';
import { savedQuerySql } from './saved-query-sql';
import {
  findTable,
  isPathProblem,
  resolveMany,
  resolvePath,
  type Catalogue,
  type Column,
  type Relation,
  type Table,
} from '../../../core/table/catalogue';

/** A table where a statement writes to it. */
export function storedTable(table: Table): Sql {
  return name(table.stored ?? table.name);
}

/** A table where a statement reads from it: its name, or the SELECT that makes it. */
export function fromTable(catalogue: Catalogue, tableName: string): Sql {
  const table = findTable(catalogue, tableName);
  if (!table) return name(tableName);
  return table.query === undefined ? storedTable(table) : savedQuerySql(table, catalogue.database);
}

/**
 * The tables of one SELECT: the one asked for, and those that relations lead to, each joined once. Aliases are `t0`,
 * `t1`, … of the whole statement.
 */
export class Tables {
  private readonly joined = new Map<string, { alias: Sql; join: Sql }>();
  readonly root: Sql;

  constructor(
    readonly catalogue: Catalogue,
    readonly table: Table,
    private readonly aliases = { used: 0 },
    /** What stands in the place of the first table, with its columns. */
    private readonly instead: Sql | null = null,
  ) {
    this.root = this.nextAlias();
  }

  private nextAlias(): Sql {
    return name(`t${this.aliases.used++}`);
  }

  /** The alias of the table at the end of the relations, joining what is not joined yet. */
  at(steps: readonly Relation[]): Sql {
    let alias = this.root;
    let key = '';
    for (const step of steps) {
      key += `${key && '\n'}${step.name}`;
      let known = this.joined.get(key);
      if (!known) {
        const next = this.nextAlias();
        known = {
          alias: next,
          join: sql` LEFT JOIN ${fromTable(this.catalogue, step.table)} ${next} ON ${next}.${name(step.targetColumn)} =
            ${alias}.${name(step.column)}`,
        };
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
    return this.column([...from, ...found.steps], found.column);
  }

  /** A raw column of the table that the relations lead to, as it is read. */
  column(steps: readonly Relation[], column: Column): Sql {
    return dialectOf(this.catalogue).read(sql`${this.at(steps)}.${name(column.name)}`, column);
  }

  /** Another table for a subselect of the same statement. */
  inside(table: Table): Tables {
    return new Tables(this.catalogue, table, this.aliases);
  }

  /**
   * `wells t0 LEFT JOIN owners t1 ON …` with all that was asked for so far; `on` follows the first table when it is
   * joined itself.
   */
  sql(on: Sql = sql``): Sql {
    return [...this.joined.values()].reduce(
      (text, each) => sql`${text}${each.join}`,
      sql`${this.instead ?? fromTable(this.catalogue, this.table.name)} ${this.root}${on}`,
    );
  }
}

/** The raw record that `steps` lead to: what the policy's conditions see. */
export function rawRecord(tables: Tables, steps: readonly Relation[] = [], table: Table = tables.table): RecordSql {
  return {
    column: (path) => tables.raw(path, steps, table),
    exists: (relation, where) => {
      const found = resolveMany(tables.catalogue, table, relation);
      if (isPathProblem(found)) throw new Error(`there is no ${found.wanted} ${found.part} in ${found.table}`);
      const inner = tables.inside(found.table);
      const condition = where(rawRecord(inner));
      const link = sql`${inner.root}.${name(found.many.column)} =
        ${tables.at([...steps, ...found.steps])}.${name(found.many.targetColumn)}`;
      return sql`EXISTS (SELECT 1 FROM ${inner.sql()} WHERE ${link} AND ${condition})`;
    },
  };
}
