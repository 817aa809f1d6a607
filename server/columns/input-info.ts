import { columnLabel, columnNotes } from '../../core/definition/definition';
import { findColumn, findTable, plainLabel } from '../../core/table/catalogue';
import { printPath } from '../../core/definition/path';
import { viewSql, type Visit } from '../gate/gate';
import { relationInfo, type ColumnInfo } from './column-info';

/**
 * What an input of a column needs, for somebody who is asked for a value of it, whether they see the column or not:
 * what may be given, and nothing of what is there. Null where the column is gone.
 */
export function inputInfo(visit: Visit, tableName: string, name: string): ColumnInfo | null {
  const table = findTable(visit.catalogue, tableName);
  const column = table && findColumn(table, name);
  if (!column) return null;
  const { definition } = visit;
  const { colours, labels } = columnNotes(definition, tableName, name);
  const relation = table.relations.find((each) => each.column === name);
  return {
    path: printPath([name]),
    label: columnLabel(definition, tableName, name, plainLabel),
    type: column.type,
    nullable: column.nullable,
    maxLength: column.maxLength,
    scale: column.scale,
    choices: column.choices,
    kind: column.kind,
    currency: column.currency,
    colours,
    labels,
    ...(relation ? { relation: relationInfo(visit, viewSql(visit), relation, []) } : {}),
    asked: null,
    sortable: false,
    veiled: false,
  };
}
