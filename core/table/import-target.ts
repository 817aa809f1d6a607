import { findTable, isIdentifier, type Catalogue, type ColumnType, type Table } from './catalogue';
import { relationOf } from './import-plan';

/** A column that a file can go into, as people read it. */
interface TargetColumn {
  name: string;
  label: string;
  type: ColumnType;
  /** True when its numbers are read as names. */
  identifies: boolean;
  /** Where it leads, and by what a record there may be named in the file instead of its end. */
  relation?: { table: string; end: string; by: { name: string; label: string }[] };
}

/** A table that a file can go into. */
export interface ImportTarget {
  name: string;
  label: string;
  columns: TargetColumn[];
}

/** What tables and columns are called. */
interface Called {
  table: (name: string) => string;
  column: (table: string, name: string) => string;
}

/** A table of a catalogue as a target; other tables of it are those that its relations may be named by. */
export function importTarget(table: Table, catalogue: Catalogue, called: Called): ImportTarget {
  return {
    name: table.name,
    label: called.table(table.name),
    columns: table.columns
      .filter(({ type }) => type !== 'other')
      .map((column): TargetColumn => {
        const relation = relationOf(table, column.name);
        const other = relation && findTable(catalogue, relation.table);
        return {
          name: column.name,
          label: called.column(table.name, column.name),
          type: column.type,
          identifies: isIdentifier(table, column),
          ...(relation && other
            ? {
                relation: {
                  table: called.table(other.name),
                  end: called.column(other.name, relation.targetColumn),
                  by: other.columns
                    .filter(({ name, type }) => name !== relation.targetColumn && type === 'text')
                    .map(({ name }) => ({ name, label: called.column(other.name, name) })),
                },
              }
            : {}),
        };
      }),
  };
}
