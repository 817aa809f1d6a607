import { askable, askCatalogue } from '../../core/access/ask';
import { contextOf, type Person } from '../../core/access/person';
import { opennessCases, viewOf, type View } from '../../core/access/view';
import type { Openness } from '../../core/access/lens';
import type { ConditionScope } from '../../core/condition/check';
import { compileCondition } from '../../core/condition/compile';
import type { ConditionContext } from '../../core/condition/operand-value';
import { and, joined, or, sql, type Sql } from '../../core/condition/sql';
import type { Condition } from '../../core/condition/tree';
import type { PortalDefinition, RowFilter } from '../../core/definition/definition';
import { maskOrderSql, maskSql } from '../../core/mask/mask';
import { findColumn, findTable, type Catalogue, type Column, type Relation, type Table } from '../../core/table/catalogue';
import { rawColumn, type Tables } from './tables';

/** One person before one definition at one moment; everything that the gate decides follows from these. */
export interface Visit {
  definition: PortalDefinition;
  catalogue: Catalogue;
  person: Person;
  moment: Date;
}

/** A cell as the statement selects it: its value or masked value, and which of the ways it is open in this row. */
export interface CellSql {
  value: Sql;
  /** Null when the cell is open in the same way in every row of the answer. */
  which: Sql | null;
  cases: Openness[];
  column: Column;
}

const yes = sql`TRUE`;
const no = sql`FALSE`;

interface KnownViews {
  catalogue: Catalogue;
  views: Map<string, View>;
  asking: Catalogue | null;
}

/** Lenses follow from the definition, the catalogue and the roles alone, so visits with the same share them. */
const known = new WeakMap<PortalDefinition, Map<string, KnownViews>>();

function knownViews({ definition, catalogue, person }: Visit): KnownViews {
  const ofDefinition = known.get(definition) ?? new Map<string, KnownViews>();
  known.set(definition, ofDefinition);
  const key = JSON.stringify([person.kind, ...person.roles]);
  let found = ofDefinition.get(key);
  if (found?.catalogue !== catalogue) {
    found = { catalogue, views: new Map(), asking: null };
    ofDefinition.set(key, found);
  }
  return found;
}

/** Turns the views of one visit into SQL. Decides nothing: each piece follows from a lens. */
export class ViewSql {
  private readonly known: KnownViews;
  readonly context: ConditionContext;

  constructor(private readonly visit: Visit) {
    this.known = knownViews(visit);
    this.context = contextOf(visit.person, visit.moment, visit.definition.portal.timeZone);
  }

  view(table: Table): View {
    let view = this.known.views.get(table.name);
    if (!view) {
      view = viewOf(this.visit.definition, this.visit.catalogue, table, this.visit.person);
      this.known.views.set(table.name, view);
    }
    return view;
  }

  /** The tables as the person may ask about them, for checking what they ask. */
  askCatalogue(): Catalogue {
    this.known.asking ??= askCatalogue(this.visit.definition, this.visit.catalogue, this.visit.person);
    return this.known.asking;
  }

  /** A row filter of the policy on the raw table that the relations lead to. */
  filter(filter: RowFilter | 'no row', tables: Tables, steps: readonly Relation[], table: Table): Sql {
    if (filter === 'every row') return yes;
    if (filter === 'no row') return no;
    const scope = { catalogue: this.visit.catalogue, table, member: true };
    return compileCondition(filter, scope, (path) => tables.raw(path, steps, table), this.context);
  }

  /** The rows of the person's view: at least one lens has them. */
  rows(tables: Tables, steps: readonly Relation[] = [], table: Table = tables.table): Sql {
    return this.anyOf(this.view(table), this.view(table).lenses.map((_, i) => i), tables, steps);
  }

  private anyOf(view: View, lenses: number[], tables: Tables, steps: readonly Relation[]): Sql {
    const filters = lenses.map((i) => view.lenses[i]!.rows);
    if (filters.includes('every row')) return yes;
    const parts = filters.filter((filter) => filter !== 'no row').map((filter) => this.filter(filter, tables, steps, view.table));
    return parts.length === 0 ? no : parts.length === 1 ? parts[0]! : sql`(${joined(parts, or)})`;
  }

  /**
   * When `lenses` have the row, given that the statement's WHERE keeps to the view of its own table. Along relations the
   * person must see the relation's column, and the record must be in their view of its table. Null means always.
   */
  private reached(view: View, lenses: number[], tables: Tables, steps: readonly Relation[]): Sql | null {
    const parts: Sql[] = [];
    let at = tables.table;
    steps.forEach((step, i) => {
      const from = this.view(at);
      const how = askable(from, step.column);
      parts.push(how?.by === 'value' ? (this.lensTest(from, how.lenses, tables, steps.slice(0, i)) ?? yes) : no);
      at = findTable(this.visit.catalogue, step.table)!;
      if (i < steps.length - 1) parts.push(this.rows(tables, steps.slice(0, i + 1), at));
    });
    const own = this.lensTest(view, lenses, tables, steps);
    if (own) parts.push(own);
    const needed = parts.filter((part) => part !== yes);
    return needed.length === 0 ? null : joined(needed, and);
  }

  private lensTest(view: View, lenses: number[], tables: Tables, steps: readonly Relation[]): Sql | null {
    // In the statement's own table the WHERE has seen to it that some lens has the row.
    if (steps.length === 0 && view.lenses.every((lens, i) => lenses.includes(i) || lens.rows === 'no row')) return null;
    const test = this.anyOf(view, lenses, tables, steps);
    return test === yes ? null : test;
  }

  /** A cell of the view; null when no lens shows anything of the column. */
  cell(tables: Tables, steps: readonly Relation[], table: Table, columnName: string): CellSql | null {
    const view = this.view(table);
    const column = findColumn(table, columnName);
    const ways = column ? opennessCases(view, columnName) : [];
    if (!column || ways.length === 0) return null;
    const raw = rawColumn(tables.at(steps), column);
    const branches = ways.map((way) => ({
      when: this.reached(view, way.lenses, tables, steps) ?? yes,
      value: column.type === 'other' && way.openness.level === 'shown' ? sql`NULL` : way.openness.level === 'masked' ? maskSql(way.openness.mask, raw) : raw,
    }));
    const cases = ways.map((way) => way.openness);
    if (branches.length === 1 && branches[0]!.when === yes) return { value: branches[0]!.value, which: null, cases, column };
    const whens = (pick: (i: number) => Sql) => branches.reduce((text, branch, i) => sql`${text} WHEN ${branch.when} THEN ${pick(i)}`, sql`CASE`);
    return {
      value: sql`${whens((i) => branches[i]!.value)} END`,
      // The place in a list that we made, not a value from outside.
      which: sql`${whens((i) => ({ text: String(i), params: [] }))} END`,
      cases,
      column,
    };
  }

  /** What the person may filter and sort by at the end of a path: the view's value there, NULL where they don't see it. */
  asked(tables: Tables, steps: readonly Relation[], table: Table, columnName: string, ordering = false): Sql {
    const view = this.view(table);
    const column = findColumn(table, columnName);
    const how = column ? askable(view, columnName) : null;
    if (!column || !how) throw new Error(`${columnName} can't be asked by`);
    const raw = rawColumn(tables.at(steps), column);
    // Choices sort in the order in which they are declared, which is their number.
    const shown = ordering && column.type === 'one choice' ? sql`(${raw} + 0)` : raw;
    const value = how.by === 'value' ? shown : maskOrderSql(how.mask, raw)!;
    const when = this.reached(view, how.lenses, tables, steps);
    return when ? sql`CASE WHEN ${when} THEN ${value} END` : value;
  }

  /** A condition that the person or a page asks: every column in it is the view's, not the table's. */
  askedCondition(condition: Condition, tables: Tables): Sql {
    return compileCondition(condition, this.askScope(tables.table), (path) => this.askedPath(path, tables), this.context);
  }

  /** What a page's condition may speak of: the person's view of the tables, and any fact of the member. */
  askScope(table: Table): ConditionScope {
    return { catalogue: this.askCatalogue(), table: findTable(this.askCatalogue(), table.name)!, member: true, facts: this.visit.catalogue };
  }

  askedPath(path: readonly string[], tables: Tables, ordering = false): Sql {
    const steps: Relation[] = [];
    let at = tables.table;
    for (const part of path.slice(0, -1)) {
      const step = at.relations.find((relation) => relation.name === part)!;
      steps.push(step);
      at = findTable(this.visit.catalogue, step.table)!;
    }
    return this.asked(tables, steps, at, path.at(-1)!, ordering);
  }
}
