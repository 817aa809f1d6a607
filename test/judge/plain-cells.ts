import type { Person } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Mask } from '../../core/mask/mask';
import type { Value } from '../../core/table/value';

/**
 * The plain, slow reading of columns and masks for one cell, given the roles that have its row. Shares nothing with the
 * product.
 */
export function plainCell(
  definition: PortalDefinition,
  person: Person,
  table: string,
  column: string,
  value: Value,
  roles: string[],
): unknown[] {
  // How much each role shows: everything, the mask that shows least, or nothing.
  const ways: (Mask | 'whole')[] = roles
    .filter((role) => definition.access[table]?.[role]?.see?.columns.includes(column))
    .map((role) => {
      const applying = definition.masks
        .filter(
          (rule) =>
            'column' in rule &&
            rule.table === table &&
            rule.column === column &&
            (rule.to === 'everyone' || rule.to.includes(role)) &&
            !rule.exceptRoles.includes(role) &&
            !(rule.exceptMembers ?? []).includes(person.email!),
        )
        .map((rule) => rule.mask);
      return applying.length === 0 ? 'whole' : applying.sort((a, b) => reveals(a) - reveals(b))[0]!;
    });
  if (ways.length === 0) return ['hidden'];
  if (ways.includes('whole')) return ['shown', value];
  // Between ways that reveal as much the product picks by their text; so does this.
  const best = (ways as Mask[]).sort(
    (a, b) =>
      reveals(b) - reveals(a) ||
      (JSON.stringify({ level: 'masked', mask: a }) < JSON.stringify({ level: 'masked', mask: b }) ? -1 : 1),
  )[0]!;
  return ['masked', veil(best, value)];
}

/** From least to most, for the styles that the scenarios use. */
function reveals(mask: Mask): number {
  return ['all', 'initials', 'keep first', 'keep last', 'year', 'month', 'step', 'round']
    .map((style) => (style === 'keep last' ? 'keep first' : style))
    .indexOf(mask.style === 'keep last' ? 'keep first' : mask.style);
}

function veil(mask: Mask, value: Value): string | null {
  if (mask.style === 'all') return '••••';
  if (value === null) return null;
  const text = String(value);
  switch (mask.style) {
    case 'keep last':
      return text.length > 1 ? `••••••${text.at(-1)}` : '••••••';
    case 'keep first':
      return text.length > 1 ? `${text[0]}••••••` : '••••••';
    case 'initials':
      return `${text[0]}.`;
    case 'year':
      return text.slice(0, 4);
    case 'month':
      return text.slice(0, 7);
    case 'step': {
      const low = 2 * Math.floor(Number(text) / 2);
      return `${low}–${low + 2}`;
    }
    case 'round':
      return { '0.50': '1', '1.00': '1', '2.25': '2' }[text]!;
    default:
      throw new Error(`no plain reading of ${mask.style}`);
  }
}
