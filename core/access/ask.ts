import type { PortalDefinition } from '../definition/definition';
import { maskAsked, maskedColumn, type Mask } from '../mask/mask';
import { findTable, type Catalogue, type Column, type Table } from '../table/catalogue';
import type { Person } from './person';
import { opennessCases, viewOf, type View } from './view';

/**
 * What a person may filter, sort and search a column by: its value where it is shown to them, the orderly part that its
 * mask shows, or nothing. `lenses` are those whose rows give it; in other rows it counts as empty.
 */
export type Askable = { by: 'value'; lenses: number[] } | { by: 'mask'; mask: Mask; lenses: number[] } | null;

export function askable(view: View, column: string): Askable {
  const cases = opennessCases(view, column);
  const shown = cases.find((each) => each.openness.level === 'shown');
  if (shown) return { by: 'value', lenses: shown.lenses };
  const only = cases[0];
  if (cases.length !== 1 || only?.openness.level !== 'masked' || !maskAsked(only.openness.mask)) return null;
  return { by: 'mask', mask: only.openness.mask, lenses: only.lenses };
}

/**
 * Whether the end of a relation is something that the person knows of a record: its address, or a column that they see.
 * Else following the relation would tell them the column's value.
 */
export function isKnownEnd(view: View, column: string): boolean {
  return view.table.key.includes(column) || askable(view, column)?.by === 'value';
}

/**
 * The tables as the person may ask about them: a column that they can't ask by is not there at all, so that a filter on
 * it reads the same as one on a column that never was. A column masked to its year is a whole number here.
 */
export function askCatalogue(definition: PortalDefinition, catalogue: Catalogue, person: Person): Catalogue {
  const tables = catalogue.tables.map((table): Table => {
    const view = viewOf(definition, catalogue, table, person);
    const columns = table.columns.flatMap((column): Column[] => {
      const how = askable(view, column.name);
      if (!how) return [];
      return [how.by === 'value' ? column : maskedColumn(column, maskAsked(how.mask)!)];
    });
    const relations = table.relations.filter((relation) => {
      const target = findTable(catalogue, relation.table);
      return (
        target &&
        askable(view, relation.column)?.by === 'value' &&
        isKnownEnd(viewOf(definition, catalogue, target, person), relation.targetColumn)
      );
    });
    // A to-many relation is there when its other end shows which record it points to.
    const many = (table.many ?? []).filter((each) => {
      const child = findTable(catalogue, each.table);
      return (
        child &&
        isKnownEnd(view, each.targetColumn) &&
        askable(viewOf(definition, catalogue, child, person), each.column)?.by === 'value'
      );
    });
    return { ...table, columns, relations, many };
  });
  return { ...catalogue, tables };
}
