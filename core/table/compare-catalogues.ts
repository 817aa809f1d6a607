import { findColumn, findTable, type Catalogue, type Column, type Relation, type Table } from './catalogue';

/** What of a table is remembered, to see later what has changed. */
export interface TableSnapshot {
  name: string;
  key: string[];
  columns: Pick<Column, 'name' | 'type' | 'nativeType' | 'nullable'>[];
  relations: Relation[];
}

/** One change of a source since it was looked at last. */
export interface CatalogueChange {
  what: 'table added' | 'table gone' | 'column added' | 'column gone' | 'column changed' | 'key changed';
  table: string;
  column?: string;
  /** What it was and is, for what changed. */
  was?: string;
  is?: string;
}

export function snapshotOf(catalogue: Catalogue): TableSnapshot[] {
  return catalogue.tables.map(({ name, key, columns, relations }) => ({
    name,
    key,
    relations: relations.map((relation) => ({
      name: relation.name,
      column: relation.column,
      table: relation.table,
      targetColumn: relation.targetColumn,
    })),
    columns: columns.map((column) => ({
      name: column.name,
      type: column.type,
      nativeType: column.nativeType,
      nullable: column.nullable,
    })),
  }));
}

/** The catalogue as it was remembered, as far as it was. */
export function rememberedCatalogue(snapshot: readonly TableSnapshot[], schema: string): Catalogue {
  return {
    schema,
    tables: snapshot.map((table): Table => ({
      ...table,
      columns: table.columns.map((column) => ({ ...column, hasDefault: false, automatic: false, unique: false })),
    })),
  };
}

/** What has changed, table by table. */
export function compareCatalogues(before: readonly TableSnapshot[], now: Catalogue): CatalogueChange[] {
  const changes: CatalogueChange[] = [];
  for (const old of before) {
    const table = findTable(now, old.name);
    if (!table) {
      changes.push({ what: 'table gone', table: old.name });
      continue;
    }
    for (const column of old.columns) {
      const found = findColumn(table, column.name);
      if (!found) changes.push({ what: 'column gone', table: old.name, column: column.name });
      else if (typeText(found) !== typeText(column))
        changes.push({
          what: 'column changed',
          table: old.name,
          column: column.name,
          was: typeText(column),
          is: typeText(found),
        });
    }
    for (const column of table.columns)
      if (!old.columns.some((known) => known.name === column.name))
        changes.push({ what: 'column added', table: old.name, column: column.name, is: typeText(column) });
    if (old.key.join() !== table.key.join())
      changes.push({
        what: 'key changed',
        table: old.name,
        was: old.key.join(', ') || 'none',
        is: table.key.join(', ') || 'none',
      });
  }
  for (const table of now.tables)
    if (!before.some((old) => old.name === table.name)) changes.push({ what: 'table added', table: table.name });
  return changes;
}

function typeText(column: Pick<Column, 'nativeType' | 'nullable'>): string {
  return `${column.nativeType}${column.nullable ? '' : ', required'}`;
}
