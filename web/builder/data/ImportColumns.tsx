import { type Table, type Catalogue, findTable, findColumn } from '../../../core/table/catalogue';
import { type ImportPlan, type ImportColumn, relationOf } from '../../../core/table/import-plan';
import type { ReadFile } from '../../client/files';
import { Samples } from './FileChooser';
import { NotationChoice } from './NotationChoice';
import { Select } from '../../ui/Select';
import { DataTable } from '../../ui/DataTable';

export function ColumnTable({
  table,
  catalogue,
  read,
  plan,
  fields,
  setColumn,
}: {
  table: Table;
  catalogue: Catalogue;
  read: ReadFile;
  plan: ImportPlan;
  fields: Record<string, string>;
  setColumn: (header: string, next: ImportColumn | null) => void;
}) {
  return (
    <DataTable
      label="Where the columns of the file go"
      head={['In the file', 'For example', `Into ${table.name}`]}
      framed
    >
      {read.columns.map((column) => {
        const mapped = plan.columns.find((each) => each.header === column.header);
        const relation = mapped && relationOf(table, mapped.column);
        const other = relation && findTable(catalogue, relation.table);
        const target = mapped && !mapped.by ? findColumn(table, mapped.column) : undefined;
        return (
          <tr key={column.header}>
            <td className="font-semibold">{column.header}</td>
            <td>
              <Samples column={{ ...column, doubts: [] }} />
            </td>
            <td>
              <Select
                className="min-w-44"
                aria-label={`Where ${column.header} goes`}
                value={mapped?.column ?? ''}
                onPick={(picked) =>
                  setColumn(column.header, picked === '' ? null : { header: column.header, column: picked })
                }
              >
                <option value="">nowhere: left out</option>
                {table.columns
                  .filter((each) => each.type !== 'other')
                  .map((each) => (
                    <option key={each.name}>{each.name}</option>
                  ))}
              </Select>
              {mapped && relation && other && (
                <Select
                  className="mt-1 min-w-44"
                  aria-label={`What stands in ${column.header}`}
                  value={mapped.by ?? ''}
                  onPick={(picked) =>
                    setColumn(column.header, {
                      header: column.header,
                      column: mapped.column,
                      ...(picked ? { by: picked } : {}),
                    })
                  }
                >
                  <option value="">
                    holds {relation.targetColumn} of {relation.table}
                  </option>
                  {other.columns
                    .filter((each) => each.name !== relation.targetColumn && each.type === 'text')
                    .map((each) => (
                      <option key={each.name} value={each.name}>
                        holds {each.name} of {relation.table}
                      </option>
                    ))}
                </Select>
              )}
              {mapped && target && (
                <NotationChoice
                  header={column.header}
                  type={target.type}
                  asked={column.ask}
                  value={mapped.notation}
                  onChange={(notation) => setColumn(column.header, { ...mapped, notation })}
                />
              )}
              {fields[column.header] && <p className="mt-1 text-sm font-medium text-iron">{fields[column.header]}</p>}
            </td>
          </tr>
        );
      })}
    </DataTable>
  );
}
