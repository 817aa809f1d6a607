import { checkCondition } from '../condition/check';
import type { Catalogue, Table } from '../table/catalogue';
import type { Grant, PortalDefinition, RowFilter } from '../definition/definition';
import { maskRank, maskTakes, type Mask } from '../mask/mask';

/** How open one column is through one lens. */
export type Openness = { level: 'hidden' } | { level: 'masked'; mask: Mask } | { level: 'shown' };

/** What one role shows of one table, and what it lets be changed there. */
export interface Lens {
  role: string;
  /** `no row` for a role that may edit what another role of the same person shows. */
  rows: RowFilter | 'no row';
  /** Columns that are not hidden. */
  columns: ReadonlyMap<string, Openness>;
  edit: { rows: RowFilter; columns: ReadonlySet<string>; keepIn: RowFilter } | null;
}

/**
 * The lens of a role on a table; null when the role sees nothing there. Fails closed: a filter that the table can't
 * answer (a column is gone, say) lets nobody in, and a column that is gone is not shown.
 */
export function lensOf(definition: PortalDefinition, catalogue: Catalogue, table: Table, role: string): Lens | null {
  const grants = Object.hasOwn(definition.access, table.name) ? definition.access[table.name]! : {};
  const grant = Object.hasOwn(grants, role) ? grants[role] : undefined;
  if (!grant || !definition.roles.some((known) => known.id === role)) return null;
  const sound = (filter: RowFilter): boolean =>
    filter === 'every row' || checkCondition(filter, { catalogue, table, member: true }).length === 0;
  const edit = editOf(grant, table, sound);
  if (!grant.see || !sound(grant.see.where)) return edit && { role, rows: 'no row', columns: new Map(), edit };

  const columns = new Map<string, Openness>();
  for (const column of table.columns) {
    if (!grant.see.columns.includes(column.name)) continue;
    const mask = strictestMask(definition, table, column.name, role);
    columns.set(column.name, mask ? { level: 'masked', mask } : { level: 'shown' });
  }
  return { role, rows: grant.see.where, columns, edit };
}

function editOf(grant: Grant, table: Table, sound: (filter: RowFilter) => boolean): Lens['edit'] {
  const rows = grant.edit?.where === 'as seen' ? grant.see?.where : grant.edit?.where;
  if (!grant.edit || !rows) return null;
  const keepIn: RowFilter = grant.edit.keepIn ?? rows;
  if (!sound(rows) || !sound(keepIn)) return null;
  const columns = grant.edit.columns.filter((name) => table.columns.some((column) => column.name === name && !column.automatic && !table.key.includes(name)));
  return { rows, columns: new Set(columns), keepIn };
}

/** Of the masks on a column that apply to the role, the one that reveals least; null when none applies. */
export function strictestMask(definition: PortalDefinition, table: Table, column: string, role: string): Mask | null {
  let strictest: Mask | null = null;
  for (const rule of definition.masks) {
    if (rule.table !== table.name || rule.column !== column) continue;
    if (rule.to !== 'everyone' && !rule.to.includes(role)) continue;
    if (rule.exceptRoles.includes(role)) continue;
    const type = table.columns.find((candidate) => candidate.name === column);
    // A mask that no longer fits the column's type hides everything rather than nothing.
    const mask: Mask = type && maskTakes(rule.mask, type) ? rule.mask : { style: 'all' };
    if (!strictest || maskRank(mask) > maskRank(strictest)) strictest = mask;
  }
  return strictest;
}

/** Compares how much two opennesses reveal: positive when `a` is more open. */
export function moreOpen(a: Openness, b: Openness): number {
  return opennessRank(a) - opennessRank(b);
}

function opennessRank(openness: Openness): number {
  return openness.level === 'hidden' ? -1e6 : openness.level === 'shown' ? 1e6 : -maskRank(openness.mask);
}
