import type { Condition } from '../condition/tree';
import { checkCondition } from '../condition/check';
import { ceilingRows } from '../definition/ceilings';
import { dataClassOf, type PortalDefinition } from '../definition/definition';
import { historyOf } from '../definition/history';
import { maskTakes, type Mask } from '../mask/mask';
import { findColumn, isNeeded, type Catalogue, type Table } from '../table/catalogue';
import { lensesOf, moreOpen, type Lens, type Openness } from './lens';
import type { Person } from './person';
import { bothRows, everyRow, type Rows } from './rows';

/** What one person gets of one table: the union of their lenses, cell by cell. */
export interface View {
  table: Table;
  /**
   * In the order of the person's roles, of each its grant's before what it may do as a steward; empty when they may do
   * nothing.
   */
  lenses: Lens[];
}

export const hidden: Openness = { level: 'hidden' };

/**
 * The view of a person. The builder's own grant shows and writes every table whole, under the ceiling; stamps and
 * lifecycles are for members.
 */
export function viewOf(definition: PortalDefinition, catalogue: Catalogue, table: Table, person: Person): View {
  const view = wholeViewOf(definition, catalogue, table, person);
  return person.withoutSight
    ? { table, lenses: view.lenses.map((lens) => withoutSight(definition, table, lens)) }
    : view;
}

function wholeViewOf(definition: PortalDefinition, catalogue: Catalogue, table: Table, person: Person): View {
  if (person.kind === 'builder') {
    return { table, lenses: [builderLens(definition, catalogue, table)] };
  }
  const roles = [...new Set(person.roles)];
  return {
    table,
    lenses: roles.flatMap((role) => lensesOf(definition, catalogue, table, role, person)),
  };
}

const standIn: Mask = { style: 'stand-in' };

/** What a lens shows to somebody who is kept from personal data: stand-ins, but for what shows nothing anyway. */
function withoutSight(definition: PortalDefinition, table: Table, lens: Lens): Lens {
  const columns = [...lens.columns].map(([name, openness]): [string, Openness] => {
    const isKept = dataClassOf(definition, table, name) !== null;
    const showsNothing = openness.level === 'masked' && openness.mask.style === 'all';
    const mask: Mask = maskTakes(standIn, findColumn(table, name)!) ? standIn : { style: 'all' };
    return [name, isKept && !showsNothing ? { level: 'masked', mask } : openness];
  });
  return { ...lens, columns: new Map(columns) };
}

function builderLens(definition: PortalDefinition, catalogue: Catalogue, table: Table): Lens {
  const { ceiling = {}, key } = table;
  const left = ceilingRows(table);
  // Above everyone: where the rule can't be asked of the table any more, nobody is let in.
  const sound = left === null || checkCondition(left, { catalogue, table, member: false, atSource: true }).length === 0;
  const rows: Rows = !sound ? 'no row' : left === null ? everyRow : [{ origin: { kind: 'ceiling' }, where: left }];
  const open = table.columns.filter((column) => ceiling.columns?.[column.name] !== 'nothing');
  const writable = (ofKey: boolean) =>
    new Set(
      open
        .filter(
          (column) =>
            ceiling.columns?.[column.name] === undefined &&
            column.type !== 'other' &&
            (key.includes(column.name) ? ofKey : !column.automatic),
        )
        .map((column) => column.name),
    );
  return {
    role: 'builder',
    rows,
    columns: new Map<string, Openness>(open.map((column) => [column.name, { level: 'shown' }])),
    // A key may be given where a deleted record is made again.
    create: ceiling.create === false ? null : { columns: writable(true), keepIn: rows },
    edit: ceiling.edit === false ? null : { rows, columns: writable(false), unseen: new Set(), keepIn: rows },
    remove: ceiling.delete === false ? null : rows,
    export: ceiling.export === false ? null : rows,
    moves: null,
    stamps: [],
    comments: null,
    files: null,
    history: historyOf(definition, table) !== null,
    actions: [],
  };
}

/** The view narrowed to what its person has of the table by one thing that they may do as a steward. */
export function stewardView(view: View, steward: string): View {
  return { table: view.table, lenses: view.lenses.filter((lens) => lens.steward === steward) };
}

/** The view narrowed to the lenses of which some rule is as `isOwn` says: what they have because of who they are. */
export function ownView(view: View, isOwn: (where: Condition) => boolean): View {
  const lenses = view.lenses.filter(({ rows }) => rows !== 'no row' && rows.some(({ where }) => isOwn(where)));
  return { table: view.table, lenses };
}

/** The view narrowed to the lenses by which it is read what changed. */
export function historyView(view: View): View {
  return { table: view.table, lenses: view.lenses.filter((lens) => lens.history) };
}

/** The view narrowed to what may be taken out as a file. */
export function exportView(view: View): View {
  // Narrowed once, whoever asks again: the lens that comes out has its export rows in its rows.
  const lenses = view.lenses
    .filter((lens) => lens.export && lens.rows !== 'no row')
    .map((lens) => ({ ...lens, rows: bothRows(lens.rows, lens.export!), export: everyRow }));
  return { table: view.table, lenses };
}

/** Columns of which at least one lens shows something, in the table's order. */
export function visibleColumns(view: View): string[] {
  return view.table.columns
    .map((column) => column.name)
    .filter((name) => view.lenses.some((lens) => lens.columns.has(name)));
}

/**
 * The distinct ways in which a column can be open in this view, each with the lenses that make it so, most open first.
 */
export function opennessCases(view: View, column: string): { openness: Openness; lenses: number[] }[] {
  const cases: { openness: Openness; lenses: number[] }[] = [];
  view.lenses.forEach((lens, i) => {
    const openness = lens.columns.get(column);
    if (!openness) return;
    const known = cases.find((existing) => moreOpen(existing.openness, openness) === 0);
    if (known) known.lenses.push(i);
    else cases.push({ openness, lenses: [i] });
  });
  return cases.sort((a, b) => moreOpen(b.openness, a.openness));
}

/** Columns that a new record needs and that the database doesn't fill by itself. */
export function neededColumns(table: Table): string[] {
  return table.columns.filter(isNeeded).map((column) => column.name);
}
