import { withManyRelations, type Catalogue, type Table } from '../table/catalogue';
import { relationName } from '../table/relation-name';

/** A table, or one of its columns, that gets another name. */
export interface Renaming {
  table: string;
  column?: string;
  to: string;
}

/**
 * The catalogue as it will be after a renaming; relations that are called after a column are called after its new name.
 */
export function renamedCatalogue(catalogue: Catalogue, { table, column, to }: Renaming): Catalogue {
  const tableName = (name: string) => (column === undefined && name === table ? to : name);
  const columnName = (of: string, name: string) =>
    column !== undefined && of === table && name === column ? to : name;
  const tables = catalogue.tables.map((each): Table => {
    const columns = each.columns.map((known) => ({
      ...known,
      name: columnName(each.name, known.name),
      ...(known.from
        ? {
            from: known.from.map((origin) => ({
              table: tableName(origin.table),
              column: columnName(origin.table, origin.column),
            })),
          }
        : {}),
    }));
    const renamed: Table = {
      ...each,
      name: tableName(each.name),
      ...(each.stored === undefined
        ? {}
        : { stored: tableName(each.name).slice(tableName(each.name).indexOf(':') + 1) }),
      columns,
      key: each.key.map((name) => columnName(each.name, name)),
      relations: [],
    };
    if (each.foreignKeys)
      renamed.foreignKeys = each.foreignKeys.map((key) => ({
        columns: key.columns.map((known) => columnName(each.name, known)),
        table: key.table === null ? null : tableName(key.table),
        targetColumns: key.targetColumns.map((known) => (key.table === null ? known : columnName(key.table, known))),
      }));
    for (const relation of each.relations) {
      const own = columnName(each.name, relation.column);
      const called = own === relation.column ? relation.name : relationName(own, renamed);
      renamed.relations.push({
        name: called,
        column: own,
        table: tableName(relation.table),
        targetColumn: columnName(relation.table, relation.targetColumn),
      });
    }
    return renamed;
  });
  return withManyRelations({ ...catalogue, tables });
}
