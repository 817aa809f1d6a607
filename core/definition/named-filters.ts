import type { Condition } from '../condition/tree';
import type { Catalogue } from '../table/catalogue';
import type { PortalDefinition } from './definition';
import { sizeOf } from './limits';
import type { SectionSpecs } from './section';
import { Translation } from './translate';

/** One filter may stand in many places, and must not make a small document one that nothing can hold. */
const mostGrown = 5_000_000;

const nothing: Catalogue = { schema: '', tables: [] };

/** Goes through a definition and keeps every name as it is. */
class Following extends Translation {
  /** Characters of JSON that conditions have got from filters. */
  grown = 0;

  constructor(
    private readonly of: PortalDefinition,
    specs: SectionSpecs,
  ) {
    super(nothing, nothing, specs);
  }

  override condition(table: string, condition: Condition): Condition {
    const { named, ...own } = condition;
    const filters = Object.hasOwn(this.of.tables, table) ? this.of.tables[table]!.filters : undefined;
    const filter = named !== undefined && filters && Object.hasOwn(filters, named) ? filters[named] : undefined;
    if (filter && this.grown <= mostGrown) {
      this.grown += sizeOf(filter.where);
      const { named: _other, ...where } = structuredClone(filter.where);
      return { ...where, named } as Condition;
    }
    // Whose records a relation leads to is not known without a catalogue.
    return condition.kind === 'exists' ? (own as Condition) : super.condition(table, own as Condition);
  }
}

/**
 * The definition with every condition that is named after a filter made the same as that filter; a name that no filter
 * has goes, and the condition stays. Null where that makes it too large to be held.
 */
export function withNamedFilters(definition: PortalDefinition, specs: SectionSpecs): PortalDefinition | null {
  // Most portals have none, and every edit reads the whole.
  if (!JSON.stringify(definition).includes('"named":')) return definition;
  const following = new Following(definition, specs);
  const followed = following.definition(definition);
  return following.grown > mostGrown ? null : followed;
}
