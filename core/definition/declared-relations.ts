import { findTable, withManyRelations, type Catalogue, type Relation, type Table } from '../table/catalogue';
import type { PortalDefinition } from './definition';
import { canJoin } from './sources';

/**
 * The catalogue with the relations that builders declared beside those that the database knows as foreign keys. One
 * whose column or target is gone, or whose name is taken, is left out: whatever relies on it then fails closed.
 */
export function withDeclaredRelations(catalogue: Catalogue, definition: Pick<PortalDefinition, 'tables'>): Catalogue {
  if (!Object.values(definition.tables).some((notes) => notes.relations?.length)) return catalogue;
  const tables = catalogue.tables.map((table): Table => {
    const declared = Object.hasOwn(definition.tables, table.name)
      ? (definition.tables[table.name]!.relations ?? [])
      : [];
    const relations = [...table.relations];
    for (const relation of declared) if (isSound(catalogue, table, relations, relation)) relations.push(relation);
    return relations.length === table.relations.length ? table : { ...table, relations };
  });
  return withManyRelations({ ...catalogue, tables });
}

function isSound(catalogue: Catalogue, table: Table, known: Relation[], relation: Relation): boolean {
  const target = findTable(catalogue, relation.table);
  const taken =
    known.some((other) => other.name === relation.name || other.column === relation.column) ||
    table.columns.some((other) => other.name === relation.name);
  return target !== undefined && !taken && canJoin(table, relation, target);
}
