import { tableRights } from '../../core/access/rights';
import { neededColumns } from '../../core/access/view';
import { linesOf, type Form, type FormLines } from '../../core/definition/form';
import { findColumn, findTable, plainLabel, type Column } from '../../core/table/catalogue';
import type { ColumnInfo } from '../columns/column-info';
import { inputInfo } from '../columns/input-info';
import { viewSql, type PlacedVisit } from '../gate/gate';
import { plainColumn } from './plain-column';

/** Lines of a form as somebody gets them who may make them. */
export interface LinesTold {
  label: string;
  columns: Column[];
  inputs: ColumnInfo[];
}

/** What of a part's lines somebody may fill; null where they may make none that lead to the form's record. */
export function theirLines(visit: PlacedVisit, form: Pick<Form, 'table'>, part: FormLines): FormLines | null {
  const table = findTable(visit.catalogue, part.table);
  const rights = table && tableRights(viewSql(visit).view(table));
  if (!table || !rights?.fills?.has(part.by)) return null;
  if (!table.relations.some((each) => each.column === part.by && each.table === form.table)) return null;
  const needed = new Set(neededColumns(table).filter((column) => !rights.stamps(column)));
  const inputs = part.inputs
    .filter(({ column }) => rights.fills!.has(column) && findColumn(table, column) && column !== part.by)
    .map((input) => (needed.has(input.column) ? { ...input, required: true as const } : input));
  return inputs.length > 0 ? { ...part, inputs } : null;
}

export function linesTold(visit: PlacedVisit, form: Pick<Form, 'steps'>): Record<string, LinesTold> {
  return Object.fromEntries(
    linesOf(form).map((part) => {
      const table = findTable(visit.catalogue, part.table)!;
      const columns = part.inputs.map(({ column }) => findColumn(table, column)!);
      const inputs = part.inputs.flatMap(({ column, label }) => {
        const info = inputInfo(visit, part.table, column);
        return info ? [label === undefined ? info : { ...info, label }] : [];
      });
      const label = part.label ?? visit.definition.tables[part.table]?.label ?? plainLabel(part.table);
      return [part.id, { label, columns: columns.map(plainColumn), inputs }];
    }),
  );
}
