import { strictestMask } from '../../../core/access/lens';
import { dataClassOf, type Grant, type PortalDefinition, type RowFilter } from '../../../core/definition/definition';
import { freeId } from '../../../core/definition/free-id';
import { maskTakes, type Mask } from '../../../core/mask/mask';
import { isClosed, type Table } from '../../../core/table/catalogue';
import type { Level } from '../../ui/Stones';

export const levels: Level[] = ['hidden', 'masked', 'shown', 'editable'];

/** The level of a column for a role as the grid shows it. */
export function levelOf(draft: PortalDefinition, table: Table, role: string, column: string): Level {
  const grant = draft.access[table.name]?.[role];
  if (!grant?.see?.columns.includes(column) || isClosed(table, column)) return 'hidden';
  if (strictestMask(draft, table, column, role)) return 'masked';
  return grant.edit?.columns.includes(column) ? 'editable' : 'shown';
}

/**
 * Whether a column can be editable at all: a key's parts can't, nor what the database fills, nor what a ceiling closes.
 */
export function canBeEdited(table: Table, column: string): boolean {
  return (
    table.ceiling?.columns?.[column] === undefined &&
    table.ceiling?.edit !== false &&
    !table.key.includes(column) &&
    !table.columns.find((each) => each.name === column)?.automatic
  );
}

/** One stone, or several, and what it is to be. */
export interface Stone {
  table: Table;
  column: string;
  role: string;
}

/**
 * Sets stones in a copy of the draft. A role that sees no rows of a table yet gets those that `rowsFor` gives; where
 * that is null its stones stay hidden, for a stone without rows would show nothing, and with every row too much. Gives
 * the stones that did not become what they were to be: those, and columns that a mask veils. Laying stones never takes
 * a mask off; `excepting`, pressed on purpose, takes the role out of the masks on the columns themselves.
 */
export function setStones<S extends Stone & { level: Level }>(
  draft: PortalDefinition,
  stones: readonly S[],
  rowsFor: (table: Table, role: string) => RowFilter | null,
  excepting = false,
): S[] {
  const left: S[] = [];
  for (const stone of stones) {
    const { table, column, role } = stone;
    // Nobody reads it, whatever is laid.
    if (isClosed(table, column) && stone.level !== 'hidden') {
      left.push(stone);
      continue;
    }
    const grants = (draft.access[table.name] ??= {});
    const rows = grants[role]?.see ? null : rowsFor(table, role);
    if (!grants[role]?.see) {
      if (stone.level === 'hidden') continue;
      if (rows === null) {
        left.push(stone);
        continue;
      }
      grants[role] = { ...grants[role], see: { where: rows, columns: [] } };
    }
    const wanted = stone.level === 'editable' && !canBeEdited(table, column) ? 'shown' : stone.level;
    const veiled = !excepting && wanted !== 'hidden' && strictestMask(draft, table, column, role) !== null;
    setLevel(draft, table, role, column, veiled ? 'masked' : wanted);
    if (levelOf(draft, table, role, column) !== wanted) left.push(stone);
  }
  for (const [table, grants] of Object.entries(draft.access))
    if (Object.keys(grants).length === 0) delete draft.access[table];
  return left;
}

/**
 * Sets a column's level for one role in a copy of the draft; other roles keep what they have. The role must see rows
 * already.
 */
export function setLevel(draft: PortalDefinition, table: Table, role: string, column: string, level: Level): void {
  const grant = draft.access[table.name]![role]!;
  const inTableOrder = (names: Set<string>) => table.columns.map((each) => each.name).filter((name) => names.has(name));
  const seen = new Set(grant.see!.columns);
  const edited = new Set(grant.edit?.columns ?? []);
  if (level === 'hidden') seen.delete(column);
  else seen.add(column);
  if (level === 'editable') edited.add(column);
  else edited.delete(column);
  grant.see!.columns = inTableOrder(seen);
  if (edited.size > 0 || grant.edit) grant.edit = { where: 'as seen', ...grant.edit, columns: inTableOrder(edited) };
  if (level === 'shown' || level === 'editable') unmask(draft, table.name, column, role);
  if (level === 'masked') mask(draft, table, column, role);
}

/**
 * Takes the role out of every mask on the column itself. A mask on its data class stays: it holds for other columns
 * too.
 */
function unmask(draft: PortalDefinition, table: string, column: string, role: string): void {
  for (const rule of draft.masks) {
    if ('dataClass' in rule || rule.table !== table || rule.column !== column) continue;
    if (rule.to === 'everyone') rule.exceptRoles = [...new Set([...rule.exceptRoles, role])];
    else rule.to = rule.to.filter((each) => each !== role);
  }
  draft.masks = draft.masks.filter((rule) => rule.to === 'everyone' || rule.to.length > 0);
}

/** Puts the role under the column's mask, made first when there is none. */
function mask(draft: PortalDefinition, table: Table, column: string, role: string): void {
  if (strictestMask(draft, table, column, role)) return;
  const rules = draft.masks.filter(
    (rule) => !('dataClass' in rule) && rule.table === table.name && rule.column === column,
  );
  const common = rules.find((rule) => rule.to === 'everyone') ?? rules[0];
  if (!common) {
    draft.masks.push({
      id: freeId(`${table.name}-${column}`, draft.masks),
      table: table.name,
      column,
      mask: likeItsClass(draft, table, column),
      to: [role],
      exceptRoles: [],
    });
    return;
  }
  common.exceptRoles = common.exceptRoles.filter((each) => each !== role);
  if (common.to !== 'everyone' && !common.to.includes(role)) common.to.push(role);
}

/** As another column of the same data class is masked, where that fits; else wholly. */
function likeItsClass(draft: PortalDefinition, table: Table, column: string): Mask {
  const ofClass = dataClassOf(draft, table, column);
  const own = table.columns.find((each) => each.name === column)!;
  const alike = draft.masks.find(
    (rule) =>
      ofClass !== null &&
      ('dataClass' in rule
        ? rule.dataClass === ofClass
        : draft.tables[rule.table]?.columns?.[rule.column]?.dataClass === ofClass) &&
      maskTakes(rule.mask, own),
  );
  return structuredClone(alike?.mask ?? { style: 'all' });
}

/** Changes the style of the masks on a column that apply to the role. */
export function setMask(draft: PortalDefinition, table: string, column: string, role: string, style: Mask): void {
  for (const rule of draft.masks) {
    const applies =
      !('dataClass' in rule) &&
      rule.table === table &&
      rule.column === column &&
      !rule.exceptRoles.includes(role) &&
      (rule.to === 'everyone' || rule.to.includes(role));
    if (applies) rule.mask = style;
  }
}

/** Changes what one role may do on a table; a grant with nothing in it is none. */
export function setGrant(
  draft: PortalDefinition,
  table: string,
  role: string,
  change: (grant: Grant) => Grant | null,
): void {
  const grants = (draft.access[table] ??= {});
  const changed = change(structuredClone(grants[role] ?? {}));
  if (changed && Object.values(changed).some((part) => part !== undefined)) grants[role] = changed;
  else delete grants[role];
  if (Object.keys(grants).length === 0) delete draft.access[table];
}

/**
 * Gives one role what another has: its grants, and its place in masks, fences, stamps, moves and actions, on one
 * table or on all; what it had there goes. Masks on a data class follow only where all tables do.
 */
export function copyRules(draft: PortalDefinition, from: string, to: string, only: string | null): void {
  for (const table of only === null ? Object.keys(draft.access) : [only])
    setGrant(draft, table, to, () => structuredClone(draft.access[table]?.[from] ?? null));
  const isMeant = (table: string) => only === null || table === only;
  const like = (roles: string[]) =>
    roles.includes(from) ? [...new Set([...roles, to])] : roles.filter((role) => role !== to);
  for (const rule of draft.masks) {
    if ('dataClass' in rule ? only !== null : !isMeant(rule.table)) continue;
    rule.exceptRoles = like(rule.exceptRoles);
    if (rule.to !== 'everyone') rule.to = like(rule.to);
  }
  draft.masks = draft.masks.filter((rule) => rule.to === 'everyone' || rule.to.length > 0);
  for (const fence of draft.fences ?? []) if (isMeant(fence.table)) fence.exceptRoles = like(fence.exceptRoles);
  for (const stamp of draft.stamps ?? [])
    if (isMeant(stamp.table) && stamp.to !== 'everyone') stamp.to = like(stamp.to);
  if (draft.stamps) draft.stamps = draft.stamps.filter((stamp) => stamp.to === 'everyone' || stamp.to.length > 0);
  for (const lifecycle of draft.lifecycles ?? [])
    if (isMeant(lifecycle.table)) for (const move of lifecycle.moves) move.roles = like(move.roles);
  for (const action of draft.actions ?? []) if (isMeant(action.table)) action.roles = like(action.roles);
}
