import { kindOf } from '../condition/check';
import { findColumn, findTable, withManyRelations, type Catalogue, type Relation, type Table } from '../table/catalogue';
import type { PortalDefinition } from './definition';

/**
 * The catalogue with the relations that builders declared beside those that the database knows as foreign keys. One whose column or
 * target is gone, or whose name is taken, is left out: whatever relies on it then fails closed.
 */
export function withDeclaredRelations(catalogue: Catalogue, definition: Pick<PortalDefinition, 'tables'>): Catalogue {
  if (!Object.values(definition.tables).some((notes) => notes.relations?.length)) return catalogue;
  const tables = catalogue.tables.map((table): Table => {
    const declared = Object.hasOwn(definition.tables, table.name) ? (definition.tables[table.name]!.relations ?? []) : [];
    const relations = [...table.relations];
    for (const relation of declared) if (isSound(catalogue, table, relations, relation)) relations.push(relation);
    return relations.length === table.relations.length ? table : { ...table, relations };
  });
  return withManyRelations({ ...catalogue, tables });
}

/** The target must tell its records apart, and both columns hold values of one kind. */
function isSound(catalogue: Catalogue, table: Table, known: Relation[], { name, column, table: to, targetColumn }: Relation): boolean {
  const from = findColumn(table, column);
  const target = findTable(catalogue, to);
  const at = target && findColumn(target, targetColumn);
  if (!from || !target || !at || known.some((other) => other.name === name || other.column === column) || table.columns.some((other) => other.name === name)) return false;
  const alone = at.unique || (target.key.length === 1 && target.key[0] === targetColumn);
  return alone && kindOf(from) === kindOf(at) && kindOf(from) !== 'none';
}
