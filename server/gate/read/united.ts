import { and, bound, joined, name, sql, type Sql } from '../../../core/sql/sql';
import type { View } from '../../../core/access/view';
import type { RawRow, Runner } from '../../sources/source';
import { selectList } from '../view/cells';
import { divide } from '../view/people-sql';
import { behind, orderBy, reversed, type OrderTerm, type Place } from '../view/order';
import type { Alternative, ListQuestion, ResolvedQuestion } from './question';
import type { Tables } from '../view/tables';

export interface PageShape {
  /** The order's terms first, then the cells. */
  selected: Sql[];
  /** The order in the direction of the walk. */
  walked: OrderTerm[];
  backwards: boolean;
  place: Place | null;
  limit: number;
  /** Of what is assumed of the person, where that is to be borne out. */
  proof: Sql | null;
}

const mostBranches = 6;

/** What to ask in the form that reads less: its statement, or, where that isn't known yet, what finds it out. */
export type Form = { statement: Sql } | { measured: () => Promise<RawRow[]> };

export function rowsIn(runner: Runner, form: Form): Promise<RawRow[]> {
  return 'statement' in form ? runner.rows(form.statement) : form.measured();
}

/** The rows of one page. */
export function pageForm(resolved: ResolvedQuestion, tables: Tables, question: ListQuestion, shape: PageShape): Form {
  const { runner, view, table } = resolved.at;
  const plain = () => plainStatement(resolved, tables, shape);
  const alternatives = shape.walked.length > 0 && runner.measure ? alternativesOf(resolved) : [];
  if (alternatives.length < 2) return { statement: plain() };
  const key = JSON.stringify([
    'page',
    question.columns,
    question.sort,
    question.where,
    question.search !== '',
    shape.place !== null,
    shape.backwards,
    shape.limit,
  ]);
  return chosen(runner, view.view(table), key, plain, () => unitedStatement(resolved, tables, shape, alternatives));
}

function plainStatement(resolved: ResolvedQuestion, tables: Tables, shape: PageShape): Sql {
  const { view } = resolved.at;
  const conditions = [
    resolved.where(tables),
    ...(shape.place ? [behind(shape.walked, shape.place, view.dialect)] : []),
    ...(shape.proof ? [shape.proof] : []),
  ];
  const order = shape.walked.length ? sql` ORDER BY ${orderBy(shape.walked, view.dialect)}` : sql``;
  return sql`SELECT ${selectList(shape.selected)} FROM ${tables.sql()} WHERE ${joined(conditions, and)}${order}
    LIMIT ${bound(shape.limit)}`;
}

function unitedStatement(
  resolved: ResolvedQuestion,
  tables: Tables,
  shape: PageShape,
  alternatives: Alternative[],
): Sql {
  const { view } = resolved.at;
  const { key } = tables.table;
  const branches = alternatives.map((alternative) => {
    const inner = tables.inside(tables.table);
    const terms = resolved.order(inner);
    const walked = shape.backwards ? reversed(terms) : terms;
    const conditions = [
      resolved.where(inner, alternative),
      ...(shape.place ? [behind(walked, shape.place, view.dialect)] : []),
    ];
    return sql`(SELECT ${selectList(key.map((column) => sql`${inner.root}.${name(column)}`))} FROM ${inner.sql()}
      WHERE ${joined(conditions, and)} ORDER BY ${orderBy(walked, view.dialect)} LIMIT ${bound(shape.limit)})`;
  });
  const found = name('found');
  const same = joined(
    key.map((column, i) => sql`${tables.root}.${name(column)} = ${found}.${name(`c${i}`)}`),
    and,
  );
  const from = sql`(${joined(branches, sql` UNION `)}) ${found} ${view.dialect.joinInOrder}
    ${tables.sql(sql` ON ${same}`)}`;
  const proven = shape.proof ? sql` WHERE ${shape.proof}` : sql``;
  return sql`SELECT ${selectList(shape.selected)} FROM ${from}${proven} ORDER BY ${orderBy(shape.walked, view.dialect)}
    LIMIT ${bound(shape.limit)}`;
}

/**
 * The number of rows, as one row of one column. United, each branch is counted by its own index alone, without fetching
 * the rows.
 */
export function countForm(resolved: ResolvedQuestion, tables: Tables): Form {
  const { asked, at } = resolved;
  const { runner, view } = at;
  const plain = () => {
    const where = resolved.where(tables);
    return sql`SELECT COUNT(*) FROM ${tables.sql()} WHERE ${where}`;
  };
  const { key } = tables.table;
  const alternatives = key.length > 0 && runner.measure ? alternativesOf(resolved) : [];
  if (alternatives.length < 2) return { statement: plain() };
  return chosen(
    runner,
    view.view(tables.table),
    JSON.stringify(['count', asked.where, asked.search !== '']),
    plain,
    () => {
      const branches = alternatives.map((alternative) => {
        const inner = tables.inside(tables.table);
        const conditions = resolved.where(inner, alternative);
        return sql`(SELECT ${selectList(key.map((column) => sql`${inner.root}.${name(column)}`))} FROM ${inner.sql()}
          WHERE ${conditions})`;
      });
      return sql`SELECT COUNT(*) FROM (${joined(branches, sql` UNION `)}) ${name('found')}`;
    },
  );
}

/**
 * The branches of the first OR that stands at the top of the policy or of a condition asked; empty when there is none
 * to divide.
 */
function alternativesOf({ asked, at: { view, table } }: ResolvedQuestion): Alternative[] {
  const policy = policyBranches(view.view(table));
  if (policy.length > 1) return policy;
  const at = asked.where.findIndex((condition) => condition.kind === 'any' && condition.parts.length <= mostBranches);
  const condition = asked.where[at];
  return condition?.kind === 'any' ? condition.parts.map((part) => ({ of: at, conditions: [part] })) : [];
}

const knownBranches = new WeakMap<View, Alternative[]>();

function policyBranches(view: View): Alternative[] {
  let branches = knownBranches.get(view);
  if (!branches) {
    const policy = view.lenses.flatMap(({ rows }) => (rows === 'no row' ? [] : [rows.map((part) => part.where)]));
    // A lens with every row is no filter, so nothing is gained from dividing the others.
    const divided = policy.some((conditions) => conditions.length === 0) ? [] : policy.flatMap(divide);
    const distinct = [...new Map(divided.map((conditions) => [JSON.stringify(conditions), conditions])).values()];
    branches = distinct.length <= mostBranches ? distinct.map((conditions) => ({ of: 'policy', conditions })) : [];
    knownBranches.set(view, branches);
  }
  return branches;
}

interface Choice {
  united: boolean;
  uses: number;
}

/**
 * What was measured, for a view and the shape of a question: facts are not in it, so all persons of a role share one.
 */
const choices = new WeakMap<View, Map<string, Choice>>();
const mostChoices = 300;

/** So often a choice is used before it is measured again: data change. */
const usesOfAChoice = 500;

function chosen(runner: Runner, view: View, key: string, plain: () => Sql, united: () => Sql): Form {
  const ofView = choices.get(view) ?? new Map<string, Choice>();
  choices.set(view, ofView);
  const known = ofView.get(key);
  if (known && known.uses++ < usesOfAChoice) return { statement: known.united ? united() : plain() };
  return {
    measured: async () => {
      const [one, other] = [await runner.measure!(plain()), await runner.measure!(united())];
      if (ofView.size >= mostChoices) ofView.delete(ofView.keys().next().value!);
      ofView.set(key, { united: other.reads < one.reads, uses: 0 });
      return other.rows;
    },
  };
}
