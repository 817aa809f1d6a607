import { askable, askCatalogue } from '../../../core/access/ask';
import { ownFacts } from '../../../core/access/own-facts';
import { canBeTold } from '../../../core/access/sees-whole';
import { contextOf } from '../../../core/access/person';
import { exportView, opennessCases, stewardView, viewOf, type View } from '../../../core/access/view';
import type { Openness } from '../../../core/access/lens';
import type { Rows } from '../../../core/access/rows';
import type { ConditionScope } from '../../../core/condition/scope';
import { compileCondition, type FactSql, type RecordSql } from '../../../core/condition/compile';
import type { Dialect } from '../../../core/dialect/dialect';
import { dialectOf } from '../../../core/dialect/of';
import type { ConditionContext } from '../../../core/condition/operand-value';
import { and, joined, or, sql, type Sql, raw } from '../../../core/sql/sql';
import type { Condition } from '../../../core/condition/tree';
import type { Action } from '../../../core/definition/action';
import type { PortalDefinition } from '../../../core/definition/definition';
import { maskAsked, maskSql, type MaskSqlContext } from '../../../core/mask/mask';
import {
  findColumn,
  findTable,
  isPathProblem,
  resolveMany,
  type Catalogue,
  type Column,
  type Relation,
  type Table,
} from '../../../core/table/catalogue';
import type { Visit } from './visit';
import { BadQuestion } from './errors';
import { rawRecord, type Tables } from './tables';

/** A cell as the statement selects it: its value or masked value, and which of the ways it is open in this row. */
export interface CellSql {
  value: Sql;
  /** Null when the cell is open in the same way in every row of the answer. */
  which: Sql | null;
  cases: Openness[];
  column: Column;
}

export const yes = sql`TRUE`;
export const no = sql`FALSE`;

interface KnownViews {
  views: Map<string, View>;
  asking: Catalogue | null;
  told: Map<Action, boolean>;
}

/**
 * Lenses follow from the definition, the catalogue, the roles, and the masks' excepted members, so visits with the same
 * share them.
 */
const known = new WeakMap<PortalDefinition, WeakMap<Catalogue, Map<string, KnownViews>>>();

function knownViews({ definition, catalogue, person, asSteward }: Visit): KnownViews {
  const ofDefinition = known.get(definition) ?? new WeakMap<Catalogue, Map<string, KnownViews>>();
  known.set(definition, ofDefinition);
  const ofCatalogue = ofDefinition.get(catalogue) ?? new Map<string, KnownViews>();
  ofDefinition.set(catalogue, ofCatalogue);
  const excepted =
    person.email !== null && definition.masks.some((rule) => rule.exceptMembers?.includes(person.email!));
  const key = JSON.stringify([
    person.kind,
    excepted ? person.email : null,
    asSteward ?? null,
    person.withoutSight ?? false,
    ...person.roles,
  ]);
  let found = ofCatalogue.get(key);
  if (!found) {
    found = { views: new Map(), asking: null, told: new Map() };
    ofCatalogue.set(key, found);
  }
  return found;
}

/** Whether two rules are made of the same conditions: what is done as a steward often repeats the grant's. */
function isSame(one: Rows | null | undefined, other: Rows): boolean {
  if (!one || one === 'no row' || other === 'no row' || one.length !== other.length) return false;
  return one.every((part, i) => part.where === other[i]!.where);
}

/** Turns the views of one visit into SQL. Decides nothing: each piece follows from a lens. */
export class ViewSql {
  private readonly known: KnownViews;
  private facts: readonly string[][] | null = null;
  readonly context: ConditionContext;
  readonly maskContext: MaskSqlContext;
  readonly dialect: Dialect;

  /**
   * `narrowed` replaces the view of a table, as an export does; `fact` gives facts that stand in columns; `taking` when
   * what is shown is taken out, which must be allowed at every table that a cell comes from.
   */
  constructor(
    private readonly visit: Visit,
    private readonly narrowed: ReadonlyMap<string, View> = new Map(),
    private readonly fact?: FactSql,
    private readonly taking = false,
  ) {
    this.known = knownViews(visit);
    const context = contextOf(visit.person, visit.moment, visit.definition.portal.timeZone, visit.record?.values);
    this.context = context;
    this.dialect = dialectOf(visit.catalogue);
    this.maskContext = {
      get today() {
        return context.today;
      },
      standIn: visit.standIn ?? null,
      dialect: this.dialect,
    };
  }

  view(table: Table): View {
    const narrowed = this.narrowed.get(table.name);
    if (narrowed) return narrowed;
    let view = this.known.views.get(table.name);
    if (!view) {
      view = this.wholeView(table);
      this.known.views.set(table.name, view);
    }
    return view;
  }

  private wholeView(table: Table): View {
    const { definition, catalogue, person, asSteward } = this.visit;
    const view = viewOf(definition, catalogue, table, person);
    const steward = asSteward === undefined ? undefined : definition.stewards?.find(({ id }) => id === asSteward);
    return steward?.does === 'look after people' && steward.roster === table.name
      ? stewardView(view, steward.id)
      : view;
  }

  /** Whether the person can be told with which of their records an action can be done. */
  tells(table: Table, action: Action): boolean {
    const { told } = this.known;
    let known = told.get(action);
    if (known === undefined) {
      const { definition, catalogue, person } = this.visit;
      known = canBeTold(definition, catalogue, table, action, person);
      told.set(action, known);
    }
    return known;
  }

  /** The tables as the person may ask about them, for checking what they ask. */
  askCatalogue(): Catalogue {
    this.known.asking ??= askCatalogue(this.visit.definition, this.visit.catalogue, this.visit.person);
    return this.known.asking;
  }

  /** What of themselves people may compare with in filters of their own. */
  ownFacts(): readonly string[][] {
    const { definition, catalogue, person } = this.visit;
    this.facts ??= ownFacts(definition, catalogue, person, this.context);
    return this.facts;
  }

  /** What a filter of a person's own may speak of: columns of their view, constants, what they see of themselves. */
  filterScope(table: Table): ConditionScope {
    return { ...this.askScope(table), member: false, ownFacts: this.ownFacts(), record: undefined };
  }

  /** A condition of the policy on the raw record that the relations lead to. */
  condition(where: Condition, tables: Tables, steps: readonly Relation[] = [], table: Table = tables.table): Sql {
    const scope = { catalogue: this.visit.catalogue, table, member: true };
    return compileCondition(where, rawRecord(tables, steps, table), { scope, context: this.context, fact: this.fact });
  }

  /** A row rule of the policy. */
  filter(
    rows: Rows | null | undefined,
    tables: Tables,
    steps: readonly Relation[] = [],
    table: Table = tables.table,
  ): Sql {
    if (!rows || rows === 'no row') return no;
    return rows.length === 0
      ? yes
      : joined(
          rows.map((part) => this.condition(part.where, tables, steps, table)),
          and,
        );
  }

  /** At least one of the rules. */
  anyRows(
    rules: readonly (Rows | null | undefined)[],
    tables: Tables,
    steps: readonly Relation[] = [],
    table: Table = tables.table,
  ): Sql {
    if (rules.some((rows) => rows && rows !== 'no row' && rows.length === 0)) return yes;
    const parts = rules
      .filter((rows, i) => rows && rows !== 'no row' && !rules.slice(0, i).some((other) => isSame(other, rows)))
      .map((rows) => this.filter(rows, tables, steps, table));
    return parts.length === 0
      ? no
      : parts.length === 1
        ? parts[0]!
        : sql`(${joined(
            parts.map((part) => sql`(${part})`),
            or,
          )})`;
  }

  /** The rows of the person's view: at least one lens has them. */
  rows(tables: Tables, steps: readonly Relation[] = [], table: Table = tables.table): Sql {
    return this.anyRows(
      this.view(table).lenses.map((lens) => lens.rows),
      tables,
      steps,
      table,
    );
  }

  /**
   * When the record at the end of the relations is one that the person can see from here: each relation's column is
   * shown to them, and each record on the way is in their view. The last one is left to the caller.
   */
  private way(tables: Tables, steps: readonly Relation[]): Sql[] {
    const parts: Sql[] = [];
    let at = tables.table;
    steps.forEach((step, i) => {
      const from = this.view(at);
      const how = askable(from, step.column);
      parts.push(how?.by === 'value' ? (this.lensTest(from, how.lenses, tables, steps.slice(0, i)) ?? yes) : no);
      at = findTable(this.visit.catalogue, step.table)!;
      parts.push(this.endKnown(at, step.targetColumn, tables, steps.slice(0, i + 1)));
      if (i < steps.length - 1) parts.push(this.rows(tables, steps.slice(0, i + 1), at));
    });
    return parts;
  }

  /**
   * When the person knows the column that a relation ends in: always for the address of a record, else where they see
   * it.
   */
  private endKnown(table: Table, column: string, tables: Tables, steps: readonly Relation[]): Sql {
    if (table.key.includes(column)) return yes;
    const how = askable(this.view(table), column);
    return how?.by === 'value' ? (this.lensTest(this.view(table), how.lenses, tables, steps) ?? yes) : no;
  }

  /** The end of a relation as a value to compare with: NULL where the person doesn't know it. */
  end(table: Table, column: string, tables: Tables, steps: readonly Relation[] = []): Sql {
    const whole = tables.raw([column], steps, table);
    const known = this.endKnown(table, column, tables, steps);
    return known === yes ? whole : sql`CASE WHEN ${known} THEN ${whole} END`;
  }

  /**
   * When `lenses` have the row, given that the statement's WHERE keeps to the view of its own table. Null means always.
   */
  private reached(view: View, lenses: number[], tables: Tables, steps: readonly Relation[]): Sql | null {
    const parts = this.way(tables, steps);
    const own = this.lensTest(view, lenses, tables, steps);
    if (own) parts.push(own);
    const needed = parts.filter((part) => part !== yes);
    return needed.length === 0 ? null : joined(needed, and);
  }

  private lensTest(view: View, lenses: number[], tables: Tables, steps: readonly Relation[]): Sql | null {
    // In the statement's own table the WHERE has seen to it that some lens has the row.
    if (steps.length === 0 && view.lenses.every((lens, i) => lenses.includes(i) || lens.rows === 'no row')) return null;
    const test = this.anyRows(
      lenses.map((i) => view.lenses[i]!.rows),
      tables,
      steps,
      view.table,
    );
    return test === yes ? null : test;
  }

  /** A cell of the view; null when no lens shows anything of the column. */
  cell(tables: Tables, steps: readonly Relation[], table: Table, columnName: string): CellSql | null {
    const view = this.taking ? exportView(this.view(table)) : this.view(table);
    const column = findColumn(table, columnName);
    const ways = column ? opennessCases(view, columnName) : [];
    if (!column || ways.length === 0) return null;
    const whole = tables.column(steps, column);
    const someMasked = ways.some((way) => way.openness.level === 'masked');
    const shown = someMasked ? this.dialect.besideText(whole, column) : whole;
    const branches = ways.map((way) => ({
      when: this.reached(view, way.lenses, tables, steps) ?? yes,
      value:
        way.openness.level === 'masked'
          ? maskSql(
              way.openness.mask,
              column.read === 'uuid' ? this.dialect.asText(whole) : whole,
              column,
              this.maskContext,
            )
          : shown,
    }));
    const cases = ways.map((way) => way.openness);
    if (branches.length === 1 && branches[0]!.when === yes)
      return { value: branches[0]!.value, which: null, cases, column };
    const whens = (pick: (i: number) => Sql) =>
      branches.reduce((text, branch, i) => sql`${text} WHEN ${branch.when} THEN ${pick(i)}`, sql`CASE`);
    return {
      value: sql`${whens((i) => branches[i]!.value)} END`,
      // The place in a list that we made, not a value from outside.
      which: sql`${whens((i) => raw(String(i)))} END`,
      cases,
      column,
    };
  }

  /**
   * What the person may filter and sort by at the end of a path: the view's value there, NULL where they don't see it.
   */
  asked(tables: Tables, steps: readonly Relation[], table: Table, columnName: string, ordering = false): Sql {
    const view = this.view(table);
    const column = findColumn(table, columnName);
    const how = column ? askable(view, columnName) : null;
    if (!column || !how) throw new BadQuestion(`${columnName} can't be asked by here.`);
    const whole = tables.column(steps, column);
    // Choices sort in the order in which they are declared, which is their number.
    const asked = column.read === 'uuid' ? this.dialect.asText(whole) : whole;
    const shown = ordering && column.type === 'one choice' ? this.dialect.choiceOrder(whole, column) : whole;
    const value =
      how.by === 'value'
        ? shown
        : sql`CASE WHEN ${whole} IS NULL THEN NULL ELSE
          ${maskAsked(how.mask)!.sql(asked, column, this.maskContext)}
          END`;
    const when = this.reached(view, how.lenses, tables, steps);
    return when ? sql`CASE WHEN ${when} THEN ${value} END` : value;
  }

  /** A condition that the person or a page asks: every column in it is the view's, not the table's. */
  askedCondition(condition: Condition, tables: Tables): Sql {
    return compileCondition(condition, this.askedRecord(tables), {
      scope: this.askScope(tables.table),
      context: this.context,
    });
  }

  /** What a page's condition may speak of: the person's view of the tables, and any fact of the member. */
  askScope(table: Table): ConditionScope {
    return {
      catalogue: this.askCatalogue(),
      table: findTable(this.askCatalogue(), table.name)!,
      member: true,
      facts: this.visit.catalogue,
      record: this.visit.record?.table,
    };
  }

  private askedRecord(tables: Tables): RecordSql {
    return {
      column: (path) => this.askedPath(path, tables),
      exists: (relation, where) => {
        const found = resolveMany(this.visit.catalogue, tables.table, relation);
        if (isPathProblem(found)) throw new Error(`there is no ${found.wanted} ${found.part} in ${found.table}`);
        const inner = tables.inside(found.table);
        const condition = where(this.askedRecord(inner));
        const end = found.steps.at(-1);
        const endTable = end ? findTable(this.visit.catalogue, end.table)! : tables.table;
        const link = sql`${this.asked(inner, [], found.table, found.many.column)} =
          ${this.end(endTable, found.many.targetColumn, tables, found.steps)}`;
        const rows = this.rows(inner);
        const exists = sql`EXISTS (SELECT 1 FROM ${inner.sql()} WHERE ${link} AND ${rows} AND ${condition})`;
        const way = end ? [...this.way(tables, found.steps), this.rows(tables, found.steps, endTable)] : [];
        return way.length ? sql`((${joined(way, and)}) IS TRUE AND ${exists})` : exists;
      },
    };
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

const ofVisits = new WeakMap<Visit, ViewSql>();

/** What a visit sees, as SQL: made once for a visit, however many questions it asks. */
export function viewSql(visit: Visit): ViewSql {
  let view = ofVisits.get(visit);
  if (!view) {
    view = new ViewSql(visit);
    ofVisits.set(visit, view);
  }
  return view;
}
