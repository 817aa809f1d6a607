import type { PortalDefinition } from '../definition/definition';
import type { Catalogue, Table } from '../table/catalogue';
import { sayHung, type SaidOfHung } from './hung-rights';
import { hung, type BesideSheet, type Hung } from '../definition/hung';
import { moreOpen } from './lens';
import type { Rows } from './rows';
import { rightsOf, tableRights } from './rights';
import { viewOf, type View } from './view';
import type { Person } from './person';

/**
 * What a change of the definition changes for persons with the same roles and facts, on one table, in numbers of rows.
 */
export interface ViewChange extends Record<BesideSheet, HungChange> {
  rows: { gained: number; lost: number; kept: number };
  /** Of the rows kept: cells that show more than before, and cells that show less. */
  columns: Record<string, { opened: number; closed: number }>;
  /** Cells that can be changed now and couldn't before, and the other way round. */
  editable: Record<string, { gained: number; lost: number }>;
  deletable: { gained: number; lost: number };
  /** Columns that a new record may be given now, or no longer; null when records can't be made before and after. */
  creatable: { gained: string[]; lost: string[] };
}

const ofHistory = 'read what changed';

/** What may be done with comments, files or histories now, or no longer, as far as their grants say. */
interface HungChange {
  gained: (SaidOfHung | typeof ofHistory)[];
  lost: (SaidOfHung | typeof ofHistory)[];
}

/** The two views of a person on a table, and the row rules that must be known of a row to tell what changes. */
export interface ViewPair {
  before: View;
  after: View;
  /** Each distinct rule once; `places` says for the lenses of each view which rule is theirs. */
  rules: Rows[];
  places: Record<'before' | 'after', { seen: number; edited: number; removed: number }[]>;
}

/** The pair of views; null when the definition changed nothing there. */
export function viewPair(
  before: PortalDefinition,
  after: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  was: Person,
  is: Person,
): ViewPair | null {
  const views = { before: viewOf(before, catalogue, table, was), after: viewOf(after, catalogue, table, is) };
  if (viewText(views.before) === viewText(views.after)) return null;
  const rules: Rows[] = [];
  const known = new Map<string, number>();
  const placeOf = (rows: Rows | null | undefined): number => {
    if (!rows || rows === 'no row') return -1;
    const key = JSON.stringify(rows.map((part) => part.where));
    if (!known.has(key)) known.set(key, rules.push(rows) - 1);
    return known.get(key)!;
  };
  const places = (view: View) =>
    view.lenses.map((lens) => ({
      seen: placeOf(lens.rows),
      edited: placeOf(lens.edit?.rows),
      removed: placeOf(lens.remove),
    }));
  return { ...views, rules, places: { before: places(views.before), after: places(views.after) } };
}

function viewText(view: View): string {
  return JSON.stringify(
    view.lenses.map((lens) => ({
      ...lens,
      role: null,
      columns: [...lens.columns],
      stamps: null,
      rows: whereOf(lens.rows),
      remove: whereOf(lens.remove),
      export: whereOf(lens.export),
      create: lens.create && [...lens.create.columns],
      edit: lens.edit && [whereOf(lens.edit.rows), [...lens.edit.columns], [...lens.edit.unseen]],
      moves: null,
      comments: null,
      files: null,
      hung: hung.map((what) => [sayHung(what, [lens]), lens[what]?.theirsBy]),
    })),
  );
}

function whereOf(rows: Rows | null): unknown {
  return rows && rows !== 'no row' ? rows.map((part) => part.where) : rows;
}

export function noChange(pair: ViewPair): ViewChange {
  const made = (view: View) => tableRights(view).fills ?? new Set<string>();
  const [was, is] = [made(pair.before), made(pair.after)];
  const hungChange = (what: Hung): HungChange => {
    const [said, says] = [sayHung(what, pair.before.lenses), sayHung(what, pair.after.lenses)];
    return {
      gained: says.filter((each) => !said.includes(each)),
      lost: said.filter((each) => !says.includes(each)),
    };
  };
  return {
    rows: { gained: 0, lost: 0, kept: 0 },
    columns: {},
    editable: {},
    deletable: { gained: 0, lost: 0 },
    creatable: {
      gained: [...is].filter((column) => !was.has(column)),
      lost: [...was].filter((column) => !is.has(column)),
    },
    comments: hungChange('comments'),
    files: hungChange('files'),
    history: historyChange(pair),
  };
}

function historyChange({ before, after }: ViewPair): HungChange {
  const [did, does] = [tableRights(before).history, tableRights(after).history];
  return { gained: does && !did ? [ofHistory] : [], lost: did && !does ? [ofHistory] : [] };
}

/**
 * Adds `count` rows for which the rules hold as given: the same functions that decide of a cell decide what changed.
 */
export function addRows(change: ViewChange, pair: ViewPair, holds: readonly boolean[], count: number): void {
  const state = (side: 'before' | 'after') => {
    const view = pair[side];
    const at = (place: number) => place >= 0 && holds[place]!;
    const places = pair.places[side];
    return rightsOf(view, {
      seen: places.map((place) => at(place.seen)),
      edited: places.map((place) => at(place.edited)),
      removed: places.map((place) => at(place.removed)),
    });
  };
  const [was, is] = [state('before'), state('after')];
  if (was.inView && is.inView) change.rows.kept += count;
  else if (is.inView) change.rows.gained += count;
  else if (was.inView) change.rows.lost += count;
  for (const { name } of pair.before.table.columns) {
    if (was.inView && is.inView) {
      const difference = moreOpen(is.cell(name), was.cell(name));
      if (difference !== 0)
        (change.columns[name] ??= { opened: 0, closed: 0 })[difference > 0 ? 'opened' : 'closed'] += count;
    }
    if (was.edits(name) !== is.edits(name))
      (change.editable[name] ??= { gained: 0, lost: 0 })[is.edits(name) ? 'gained' : 'lost'] += count;
  }
  if (was.deletable !== is.deletable) change.deletable[is.deletable ? 'gained' : 'lost'] += count;
}

/** Of more rules than these not every case is tried. */
const mostTried = 8;

/**
 * The places of those rules on which it depends what changes for a row: every case of the others is tried with each,
 * so that what tells nothing need not be asked of every row.
 */
export function tellingRules(pair: ViewPair): number[] {
  const places = pair.rules.map((_, i) => i);
  if (places.length > mostTried) return places;
  const cases = Array.from({ length: 2 ** places.length }, (_, bits) => {
    const change = noChange(pair);
    addRows(
      change,
      pair,
      places.map((i) => (bits & (1 << i)) !== 0),
      1,
    );
    return JSON.stringify(change);
  });
  return places.filter((i) => cases.some((text, bits) => text !== cases[bits ^ (1 << i)]));
}

/** Whether anything at all is different. */
export function isChange(change: ViewChange): boolean {
  const { rows, deletable, creatable, comments, files, history } = change;
  const lists = [creatable, comments, files, history].flatMap(({ gained, lost }) => [gained, lost]);
  return (
    rows.gained + rows.lost + deletable.gained + deletable.lost > 0 ||
    lists.some((list) => list.length > 0) ||
    Object.keys(change.columns).length + Object.keys(change.editable).length > 0
  );
}
