import type { ImportPlan, ImportColumn } from '../../core/table/import-plan';
import type { ImportTarget } from '../../core/table/import-target';
import type { ReadFile } from '../client/files';
import { Samples } from './FileChooser';
import { NotationChoice } from './NotationChoice';
import { Select } from '../ui/Select';
import { DataTable } from '../ui/DataTable';

export function ColumnTable({
  target,
  read,
  plan,
  fields,
  setColumn,
}: {
  target: ImportTarget;
  read: ReadFile;
  plan: ImportPlan;
  fields: Record<string, string>;
  setColumn: (header: string, next: ImportColumn | null) => void;
}) {
  return (
    <DataTable
      label="Where the columns of the file go"
      head={['In the file', 'For example', `Into ${target.label}`]}
      framed
    >
      {read.columns.map((column) => {
        const mapped = plan.columns.find((each) => each.header === column.header);
        const into = mapped && target.columns.find(({ name }) => name === mapped.column);
        const relation = into?.relation;
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
                {target.columns.map(({ name, label }) => (
                  <option key={name} value={name}>
                    {label}
                  </option>
                ))}
              </Select>
              {mapped && relation && (
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
                    holds {relation.end} of {relation.table}
                  </option>
                  {relation.by.map(({ name, label }) => (
                    <option key={name} value={name}>
                      holds {label} of {relation.table}
                    </option>
                  ))}
                </Select>
              )}
              {mapped && into && !mapped.by && (
                <NotationChoice
                  header={column.header}
                  type={into.type}
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
