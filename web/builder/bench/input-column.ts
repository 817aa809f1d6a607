import { columnLabel, columnNotes, type PortalDefinition } from '../../../core/definition/definition';
import { printPath } from '../../../core/definition/path';
import { plainLabel, type Column, type Table } from '../../../core/table/catalogue';
import type { InputColumn } from '../../records/options';

/** A column of the catalogue as its input has it, with what the draft notes of it. */
export function inputColumn(draft: PortalDefinition, table: Table, column: Column): InputColumn {
  const relation = table.relations.find((each) => each.column === column.name);
  return {
    path: printPath([column.name]),
    label: columnLabel(draft, table.name, column.name, plainLabel),
    type: column.type,
    nullable: true,
    choices: column.choices,
    maxLength: column.maxLength,
    labels: columnNotes(draft, table.name, column.name).labels,
    ...(relation ? { relation: { name: relation.name, table: relation.table, title: null, opens: false } } : {}),
  };
}
