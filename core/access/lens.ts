import { findColumn, type Catalogue, type Table } from '../table/catalogue';
import {
  maskTargets,
  type Grant,
  type Move,
  type PortalDefinition,
  type RowFilter,
  type Stamp,
} from '../definition/definition';
import { historyOf } from '../definition/history';
import { maskRank, maskTakes, type Mask } from '../mask/mask';
import { actionLenses, type ActionLens } from './action-rights';
import { boundsOf, isFor, partsOf, writable, type MakePart } from './lens-rules';
import { hungLens, type HungLens } from './hung-rights';
import type { Person } from './person';
import { stewardGrant } from './steward-grants';
import { bothRows, type PartOrigin, type Rows } from './rows';

/** How open one column is through one lens. */
export type Openness = { level: 'hidden' } | { level: 'masked'; mask: Mask } | { level: 'shown' };

/** What one role shows of one table, and what it lets be done there. */
export interface Lens {
  role: string;
  /** By what the role has it as a steward; its grant when absent. */
  steward?: string;
  /** `no row` for a role that may write what another role of the same person shows, or that only adds. */
  rows: Rows;
  /** Columns that are not hidden. */
  columns: ReadonlyMap<string, Openness>;
  create: { columns: ReadonlySet<string>; keepIn: Rows } | null;
  edit: { rows: Rows; columns: ReadonlySet<string>; unseen: ReadonlySet<string>; keepIn: Rows } | null;
  remove: Rows | null;
  /** Of the rows seen, those that may be taken out. */
  export: Rows | null;
  /** The moves that the role may make, where their own condition holds; `after` is what must hold then. */
  moves: { column: string; moves: readonly Move[]; after: Rows } | null;
  stamps: readonly Stamp[];
  /** What may be said beside the rows seen. */
  comments: HungLens | null;
  /** Which files may be hung on the rows seen. */
  files: HungLens | null;
  /** Whether what changed in the rows seen is read. */
  history: boolean;
  /** What may be done with the rows seen by a press. */
  actions: readonly ActionLens[];
}

/** Of whom a lens depends beyond the role: members may be excepted from masks by name. */
export type LensPerson = Pick<Person, 'email'>;

/** Every lens that a role has of a table: by its grant, and by what it may do as a steward. */
export function lensesOf(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  role: string,
  person: LensPerson | null = null,
): Lens[] {
  const stewards = (definition.stewards ?? []).filter((steward) => steward.role === role);
  return [
    lensOf(definition, catalogue, table, role, person),
    ...stewards.map((steward) => {
      const grant = stewardGrant(definition, catalogue, table, steward);
      const lens = grant && lensOfGrant(definition, catalogue, table, role, grant, person, true);
      // What is looked after is moved, and acted upon, by nobody on that account.
      return lens && { ...lens, steward: steward.id, moves: null, actions: [] };
    }),
  ].filter((lens) => lens !== null);
}

/**
 * The lens that a role's grant gives it of a table; null when the role may do nothing there. Fails closed: a filter
 * that the table can't answer (a column is gone, say) lets nobody in, a column that is gone is not shown, and a broken
 * fence closes the table to all who are not exempt.
 */
export function lensOf(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  role: string,
  person: LensPerson | null = null,
): Lens | null {
  const grants = Object.hasOwn(definition.access, table.name) ? definition.access[table.name]! : {};
  const grant = Object.hasOwn(grants, role) ? grants[role] : undefined;
  return grant ? lensOfGrant(definition, catalogue, table, role, grant, person) : null;
}

function lensOfGrant(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  role: string,
  grant: Grant,
  person: LensPerson | null,
  lacks = false,
): Lens | null {
  if (!definition.roles.some((known) => known.id === role)) return null;
  const { sound, part } = partsOf(catalogue, table, lacks);
  const bounds = boundsOf(definition, table, role, part);
  const ceiling = table.ceiling ?? {};
  const within = (filter: RowFilter | 'as seen', origin: PartOrigin): Rows | null => {
    const own =
      filter === 'as seen' ? grant.see && part(grant.see.where, { kind: 'filter', of: 'see' }) : part(filter, origin);
    return own ? usable(bothRows(own, bounds)) : null;
  };
  const shown = grant.see
    ? shownColumns(definition, table, grant.see.columns, role, person)
    : new Map<string, Openness>();
  const named = !table.keyByWord || table.key.every((column) => shown.get(column)?.level === 'shown');
  const seen = grant.see && named ? (within(grant.see.where, { kind: 'filter', of: 'see' }) ?? 'no row') : 'no row';
  const lens: Lens = {
    role,
    rows: seen,
    columns: seen === 'no row' ? new Map() : shown,
    create: ceiling.create === false ? null : createOf(definition, grant, table, bounds, part),
    edit: ceiling.edit === false ? null : editOf(definition, grant, table, bounds, part, within),
    remove:
      ceiling.delete === false || !grant.delete ? null : within(grant.delete.where, { kind: 'filter', of: 'delete' }),
    export:
      ceiling.export === false || !grant.export ? null : within(grant.export.where, { kind: 'filter', of: 'export' }),
    moves: ceiling.edit === false ? null : movesOf(definition, grant, table, role, bounds, sound, part),
    stamps: (definition.stamps ?? []).filter((stamp) => stamp.table === table.name && isFor(stamp.to, role)),
    comments: hungLens(grant.comments, seen, { catalogue, table }),
    files: hungLens(grant.files, seen, { catalogue, table }),
    history: grant.history === true && seen !== 'no row' && historyOf(definition, table) !== null,
    actions: actionLenses(definition, catalogue, table, role, seen),
  };
  return seen === 'no row' && !lens.create && !lens.edit && !lens.remove && !lens.moves ? null : lens;
}

function usable(rows: Rows): Rows | null {
  return rows === 'no row' ? null : rows;
}

function shownColumns(
  definition: PortalDefinition,
  table: Table,
  names: string[],
  role: string,
  person: LensPerson | null,
): Map<string, Openness> {
  const columns = new Map<string, Openness>();
  for (const column of table.columns) {
    if (!names.includes(column.name) || table.ceiling?.columns?.[column.name] === 'nothing') continue;
    const mask = strictestMask(definition, table, column.name, role, person);
    columns.set(column.name, mask ? { level: 'masked', mask } : { level: 'shown' });
  }
  return columns;
}

function createOf(
  definition: PortalDefinition,
  grant: Grant,
  table: Table,
  bounds: Rows,
  part: MakePart,
): Lens['create'] {
  if (!grant.create) return null;
  const edited = grant.edit?.keepIn ?? (grant.edit?.where === 'as seen' ? grant.see?.where : grant.edit?.where);
  const keepIn = usable(
    bothRows(
      part(grant.create.keepIn ?? edited ?? grant.see?.where ?? 'every row', { kind: 'keep-in', of: 'create' }),
      bounds,
    ),
  );
  return keepIn && { columns: writable(definition, table, grant.create.columns), keepIn };
}

function editOf(
  definition: PortalDefinition,
  grant: Grant,
  table: Table,
  bounds: Rows,
  part: MakePart,
  within: (filter: RowFilter | 'as seen', origin: PartOrigin) => Rows | null,
): Lens['edit'] {
  if (!grant.edit) return null;
  const rows = within(grant.edit.where, { kind: 'filter', of: 'edit' });
  const filter = grant.edit.keepIn ?? (grant.edit.where === 'as seen' ? grant.see?.where : grant.edit.where);
  const keepIn = filter && usable(bothRows(part(filter, { kind: 'keep-in', of: 'edit' }), bounds));
  if (!rows || !keepIn) return null;
  const columns = writable(
    definition,
    table,
    grant.edit.columns.filter((name) => !table.key.includes(name)),
  );
  return { rows, columns, unseen: new Set((grant.edit.unseen ?? []).filter((name) => columns.has(name))), keepIn };
}

/**
 * After a move the record keeps within the fences, and within the keep-in rule where one is written: the edit filter
 * may well name the old state.
 */
function movesOf(
  definition: PortalDefinition,
  grant: Grant,
  table: Table,
  role: string,
  bounds: Rows,
  sound: (filter: RowFilter) => boolean,
  part: MakePart,
): Lens['moves'] {
  const lifecycle = (definition.lifecycles ?? []).find((each) => each.table === table.name);
  const column = lifecycle && findColumn(table, lifecycle.column);
  if (!lifecycle || !column || table.ceiling?.columns?.[column.name] !== undefined) return null;
  const moves = lifecycle.moves.filter((move) => move.roles.includes(role) && sound(move.where ?? 'every row'));
  const after = usable(bothRows(part(grant.edit?.keepIn ?? 'every row', { kind: 'keep-in', of: 'edit' }), bounds));
  return after && moves.length > 0 ? { column: column.name, moves, after } : null;
}

/** Of the masks on a column that apply to the role, the one that reveals least; null when none applies. */
export function strictestMask(
  definition: PortalDefinition,
  table: Table,
  column: string,
  role: string,
  person: LensPerson | null = null,
): Mask | null {
  let strictest: Mask | null = null;
  for (const rule of definition.masks) {
    if (!maskTargets(definition, rule, table, column) || !isFor(rule.to, role) || rule.exceptRoles.includes(role))
      continue;
    if (person?.email && rule.exceptMembers?.includes(person.email)) continue;
    const type = findColumn(table, column);
    // A mask that doesn't fit the column's type hides everything rather than nothing.
    const mask: Mask = type && maskTakes(rule.mask, type) ? rule.mask : { style: 'all' };
    if (!strictest || maskRank(mask) > maskRank(strictest)) strictest = mask;
  }
  return strictest;
}

/**
 * Compares how much two opennesses reveal: positive when `a` is more open, 0 only when they are the same. Between two
 * masks of one rank the order of their text decides, so that every part of the product picks the same.
 */
export function moreOpen(a: Openness, b: Openness): number {
  const difference = opennessRank(a) - opennessRank(b);
  if (difference !== 0) return difference;
  const [one, other] = [JSON.stringify(a), JSON.stringify(b)];
  return one < other ? 1 : one > other ? -1 : 0;
}

function opennessRank(openness: Openness): number {
  return openness.level === 'hidden' ? -1e6 : openness.level === 'shown' ? 1e6 : -maskRank(openness.mask);
}
