import { strictestMask } from '../../../core/access/lens';
import type { PortalDefinition } from '../../../core/definition/definition';
import type { Mask } from '../../../core/mask/mask';
import type { Table } from '../../../core/table/catalogue';
import type { Level } from '../../ui/Stones';

/** The level of a column for a role as the grid shows it. */
export function levelOf(draft: PortalDefinition, table: Table, role: string, column: string): Level {
  const grant = draft.access[table.name]?.[role];
  if (!grant?.see?.columns.includes(column)) return 'hidden';
  if (strictestMask(draft, table, column, role)) return 'masked';
  return grant.edit?.columns.includes(column) ? 'editable' : 'shown';
}

/** Sets a column's level for one role in a copy of the draft; other roles keep what they have. The role must see rows already. */
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

/** Takes the role out of every mask on the column. */
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
  const rules = draft.masks.filter((rule) => !('dataClass' in rule) && rule.table === table.name && rule.column === column);
  const common = rules.find((rule) => rule.to === 'everyone') ?? rules[0];
  if (!common) {
    const id = `${table.name}-${column}`.toLowerCase().replaceAll(/[^a-z0-9_-]/g, '-').replace(/^[^a-z]+/, 'm').slice(0, 36);
    const free = draft.masks.some((rule) => rule.id === id) ? `${id}-${draft.masks.length}` : id;
    draft.masks.push({ id: free, table: table.name, column, mask: { style: 'all' }, to: [role], exceptRoles: [] });
    return;
  }
  common.exceptRoles = common.exceptRoles.filter((each) => each !== role);
  if (common.to !== 'everyone' && !common.to.includes(role)) common.to.push(role);
}

/** Changes the style of the masks on a column that apply to the role. */
export function setMask(draft: PortalDefinition, table: string, column: string, role: string, style: Mask): void {
  for (const rule of draft.masks) {
    const applies = !('dataClass' in rule) && rule.table === table && rule.column === column && !rule.exceptRoles.includes(role) && (rule.to === 'everyone' || rule.to.includes(role));
    if (applies) rule.mask = style;
  }
}
