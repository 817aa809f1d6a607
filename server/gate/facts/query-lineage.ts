import { findTable, type Catalogue } from '../../../core/table/catalogue';
import { InvalidValues } from '../view/errors';

/**
 * Where the columns of a saved query come from, found by reading it with scopes as the database does (ISO/IEC 9075-2,
 * 7.6 and 7.17: a WITH's element sees the elements before it, and itself only where it is recursive; a subquery sees
 * what is around it). Refused is what can't be followed.
 */
/** A part of the parsed query. */
export interface QueryNode {
  type?: string;
  [part: string]: unknown;
}

/** A column of a table, as one text. */
type Origin = `${string}\n${string}`;

type Origins = ReadonlySet<Origin>;

interface Relation {
  alias: string;
  /** By their names in lower case, in order. */
  columns: Map<string, Origins>;
}

interface Scope {
  relations: Relation[];
  outer: Scope | null;
  /** Names given in the SELECT list, which ORDER BY, GROUP BY and HAVING may use. */
  given: Map<string, Origins>;
}

/** A column with its name in lower case; null where the database will give it one. */
type Named = [string | null, Origins];

type Known = ReadonlyMap<string, Map<string, Origins>>;

export interface Lineage {
  /** Every table that is read anywhere. */
  reads: string[];
  /** The columns of tables that a column of the query is made of; all that is read where that can't be told. */
  columnOf(name: string): { table: string; column: string }[];
}

const refuse = (reason: string) => new InvalidValues({ text: reason });

export function lineageOf(select: QueryNode, catalogue: Catalogue): Lineage {
  const reading = new Reading(catalogue);
  const columns = byName(reading.query(select, new Map(), null));
  const all = () =>
    [...reading.reads].flatMap((table) =>
      findTable(catalogue, table)!.columns.map((column) => ({ table, column: column.name })),
    );
  return {
    reads: [...reading.reads],
    columnOf: (name) => {
      const origins = columns?.get(name.toLowerCase());
      return origins
        ? [...origins].map((origin) => {
            const [table, column] = origin.split('\n');
            return { table: table!, column: column! };
          })
        : all();
    },
  };
}

class Reading {
  readonly reads = new Set<string>();
  constructor(private readonly catalogue: Catalogue) {}

  /** The columns of a SELECT with all that is united with it, in order; null where they can't be told one by one. */
  query(select: QueryNode, known: Known, outer: Scope | null): Named[] | null {
    const named = this.withs(select, known, outer);
    const parts: (Named[] | null)[] = [];
    for (let part: QueryNode | undefined = select; part; part = part._next as QueryNode | undefined)
      parts.push(this.select(part, named, outer));
    const [first] = parts;
    if (!first || parts.some((part) => part === null || part.length !== first.length)) return null;
    return first.map(([name], i) => [name, union(...parts.map((part) => part![i]![1]))]);
  }

  /**
   * The elements of WITH, each seeing those before it; a recursive one begins with nothing and is read until no more
   * comes of it.
   */
  private withs(select: QueryNode, known: Known, outer: Scope | null): Known {
    const named = new Map(known);
    const parts = Array.isArray(select.with) ? (select.with as QueryNode[]) : [];
    const recursive = parts.some((part) => part.recursive === true);
    for (const part of parts) {
      const name = textOf(part.name);
      if (name === null) throw refuse('A WITH has no name.');
      if (this.catalogue.tables.some((table) => table.name.toLowerCase() === name.toLowerCase()))
        throw refuse(
          `WITH ${name} has the name of a table. Call it something else, so that it is clear which of the two is read.`,
        );
      const statement = part.stmt as QueryNode;
      const body = (statement.ast ?? statement) as QueryNode;
      const renamed = Array.isArray(part.columns)
        ? (part.columns as unknown[]).map((column) => columnName(column))
        : null;
      let columns = new Map<string, Origins>();
      for (let round = 0; ; round++) {
        if (recursive) named.set(name.toLowerCase(), columns);
        const found = this.elementColumns(body, named, outer, renamed, recursive && round === 0);
        const size = (of: Map<string, Origins>) => [...of.values()].reduce((sum, origins) => sum + origins.size + 1, 0);
        const done = !recursive || size(found) === size(columns);
        columns = found;
        if (done) break;
      }
      named.set(name.toLowerCase(), columns);
    }
    return named;
  }

  private elementColumns(
    body: QueryNode,
    named: Known,
    outer: Scope | null,
    renamed: (string | null)[] | null,
    firstAlone: boolean,
  ): Map<string, Origins> {
    // Of a recursive element the first SELECT tells its columns, before it can be read as a whole.
    const found = this.query(firstAlone ? { ...body, _next: undefined } : body, named, outer);
    if (!found)
      throw refuse("The columns of a WITH can't be told one by one. Name each of them, in each part of a UNION.");
    if (!renamed) return byName(found)!;
    if (found.length !== renamed.length || renamed.includes(null))
      throw refuse('A WITH names more or fewer columns than it has.');
    return byName(renamed.map((name, i): Named => [name!.toLowerCase(), found[i]![1]]))!;
  }

  /** The columns of one SELECT, by name and in order; null where a star makes their places unsure. */
  private select(select: QueryNode, known: Known, outer: Scope | null): Named[] | null {
    const scope: Scope = { relations: [], outer, given: new Map() };
    for (const from of (Array.isArray(select.from) ? select.from : []) as QueryNode[])
      scope.relations.push(this.relation(from, known, outer));
    if (select.from && !Array.isArray(select.from))
      throw refuse('This way of saying FROM is not understood. Name the tables one by one.');
    const columns: Named[] = [];
    const listed = (Array.isArray(select.columns) ? select.columns : []) as QueryNode[];
    if (select.columns === '*') columns.push(...this.star(scope, null));
    for (const column of listed) {
      const expression = (column.expr ?? column) as QueryNode;
      const star = this.starOf(expression);
      if (star !== undefined) {
        columns.push(...this.star(scope, star));
        continue;
      }
      const name = textOf(column.as) ?? (expression.type === 'column_ref' ? columnName(expression) : null);
      const origins = this.expression(expression, scope, known);
      columns.push([name === null ? null : name.toLowerCase(), origins]);
      if (name !== null) scope.given.set(name.toLowerCase(), origins);
    }
    // Read for what it names, not for what comes of it.
    for (const part of ['where', 'groupby', 'having', 'orderby', 'limit', 'window'] as const)
      if (select[part]) this.expression(select[part] as QueryNode, scope, known);
    for (const from of (Array.isArray(select.from) ? select.from : []) as QueryNode[])
      if (from.on) this.expression(from.on as QueryNode, scope, known);
    return columns;
  }

  /** What a FROM names. A SELECT in it sees what is around the whole, not what stands beside it. */
  private relation(from: QueryNode, known: Known, outer: Scope | null): Relation {
    const inner = from.expr as QueryNode | undefined;
    const alias = textOf(from.as);
    if (inner) {
      const ast = inner.ast as QueryNode | undefined;
      if (!ast || ast.type !== 'select' || alias === null)
        throw refuse("A FROM holds something else than tables and SELECTs with a name. That can't be followed.");
      const columns = byName(this.query(ast, known, outer));
      if (!columns)
        throw refuse(`The columns of ${alias} can't be told one by one. Name each of them, in each part of a UNION.`);
      return { alias: alias.toLowerCase(), columns };
    }
    if (typeof from.table !== 'string')
      throw refuse("A FROM holds something else than tables and SELECTs with a name. That can't be followed.");
    const schema = from.db ?? from.schema;
    const element = schema ? undefined : known.get(from.table.toLowerCase());
    if (element) return { alias: (alias ?? from.table).toLowerCase(), columns: element };
    if (schema && schema !== this.catalogue.schema)
      throw refuse(
        `A saved query stays in ${this.catalogue.schema}; ${textOf(schema) ?? 'another schema'} is elsewhere.`,
      );
    const table = findTable(this.catalogue, from.table);
    if (!table || table.query !== undefined)
      throw refuse(`There is no table ${from.table} in ${this.catalogue.schema}.`);
    this.reads.add(table.name);
    return {
      alias: (alias ?? from.table).toLowerCase(),
      columns: new Map(
        table.columns.map((column) => [column.name.toLowerCase(), new Set<Origin>([`${table.name}\n${column.name}`])]),
      ),
    };
  }

  /** The table of `t.*`, null for `*` alone; undefined for anything else. */
  private starOf(expression: QueryNode): string | null | undefined {
    if (expression.type === 'star') return null;
    if (expression.type !== 'column_ref' || columnName(expression) !== '*') return undefined;
    return textOf(expression.table);
  }

  private star(scope: Scope, alias: string | null): [string, Origins][] {
    const relations =
      alias === null ? scope.relations : scope.relations.filter((relation) => relation.alias === alias.toLowerCase());
    if (relations.length === 0) throw refuse(`${alias ?? ''}.* is of no table of this SELECT.`);
    return relations.flatMap((relation) => [...relation.columns]);
  }

  /**
   * All that is named anywhere in an expression, subqueries whole: their conditions can tell a value as well as their
   * columns.
   */
  private expression(node: unknown, scope: Scope, known: Known): Origins {
    const found = new Set<Origin>();
    const add = (origins: Origins) => {
      for (const origin of origins) found.add(origin);
    };
    const walk = (value: unknown): void => {
      if (Array.isArray(value)) {
        for (const each of value) walk(each);
        return;
      }
      if (typeof value !== 'object' || value === null) return;
      const part = value as QueryNode;
      if (part.type === 'column_ref') {
        if (columnName(part) !== '*') add(this.reference(part, scope));
        return;
      }
      const ast = (part.type === 'select' ? part : part.ast) as QueryNode | undefined;
      if (ast?.type === 'select') {
        add(this.inner(ast, scope, known));
        return;
      }
      for (const [name, each] of Object.entries(part)) if (name !== 'loc' && name !== 'location') walk(each);
    };
    walk(node);
    return found;
  }

  /** A subquery within an expression: its columns, and all that its conditions name. */
  private inner(ast: QueryNode, scope: Scope, known: Known): Origins {
    const found = new Set<Origin>();
    const columns = this.query(ast, known, scope);
    const named = this.withs(ast, known, scope);
    for (let part: QueryNode | undefined = ast; part; part = part._next as QueryNode | undefined) {
      const within: Scope = {
        relations: ((Array.isArray(part.from) ? part.from : []) as QueryNode[]).map((from) =>
          this.relation(from, named, scope),
        ),
        outer: scope,
        given: new Map(),
      };
      for (const origin of this.expression(
        [part.where, part.having, part.groupby, columns === null ? part.columns : null],
        within,
        named,
      ))
        found.add(origin);
    }
    for (const [, origins] of columns ?? []) for (const origin of origins) found.add(origin);
    return found;
  }

  private reference(node: QueryNode, scope: Scope): Origins {
    const name = columnName(node);
    const table = textOf(node.table);
    if (name === null) throw refuse('A column is named in a way that is not understood.');
    for (let at: Scope | null = scope; at; at = at.outer) {
      const relations =
        table === null ? at.relations : at.relations.filter((relation) => relation.alias === table.toLowerCase());
      const here = relations.flatMap((relation) => relation.columns.get(name.toLowerCase()) ?? []);
      if (here.length > 0) return union(...here);
      if (table !== null) continue;
      const given = at.given.get(name.toLowerCase());
      if (given) return given;
      // PostgreSQL takes a table's name for its whole row.
      const whole = at.relations.find((relation) => relation.alias === name.toLowerCase());
      if (whole) return union(...whole.columns.values());
    }
    throw refuse(`There is no column ${table === null ? '' : `${table}.`}${name} in what the query reads.`);
  }
}

/**
 * By name; one that stands twice is made of both. What has no name is told by none, and so is taken to be made of all.
 */
function byName(columns: Named[] | null): Map<string, Origins> | null {
  if (columns === null) return null;
  const named = new Map<string, Origins>();
  for (const [name, origins] of columns)
    if (name !== null) named.set(name, union(origins, named.get(name) ?? new Set()));
  return named;
}

function union(...all: Origins[]): Origins {
  return new Set(all.flatMap((origins) => [...origins]));
}

/** A name as the parser gives it: a text, or a text in one or two wrappers. */
function textOf(value: unknown): string | null {
  if (typeof value === 'string') return value;
  if (typeof value !== 'object' || value === null) return null;
  const { value: inner, expr } = value as { value?: unknown; expr?: unknown };
  return inner === undefined ? (expr === undefined ? null : textOf(expr)) : textOf(inner);
}

function columnName(node: unknown): string | null {
  return textOf((node as QueryNode).column);
}
