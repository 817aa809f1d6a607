import { type Table, type Catalogue, findTable, findColumn } from '../../../core/table/catalogue';
import { type ImportPlan, type ImportColumn, relationOf } from '../../../core/table/import-plan';
import type { ReadFile } from '../../client/files';
import { Samples } from './FileChooser';
import { NotationChoice } from './NotationChoice';

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
    <div
      className="overflow-x-auto rounded-stone border border-line"
      tabIndex={0}
      role="region"
      aria-label="Where the columns of the file go"
    >
      <table className="w-full text-left">
        <thead>
          <tr className="border-b border-line text-sm text-soft">
            {['In the file', 'For example', `Into ${table.name}`].map((head) => (
              <th key={head} scope="col" className="px-3 py-2 font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {read.columns.map((column) => {
            const mapped = plan.columns.find((each) => each.header === column.header);
            const relation = mapped && relationOf(table, mapped.column);
            const other = relation && findTable(catalogue, relation.table);
            const target = mapped && !mapped.by ? findColumn(table, mapped.column) : undefined;
            return (
              <tr key={column.header} className="border-b border-line align-top last:border-0">
                <td className="px-3 py-2 font-semibold">{column.header}</td>
                <td className="px-3 py-2">
                  <Samples column={{ ...column, doubts: [] }} />
                </td>
                <td className="px-3 py-1.5">
                  <select
                    className="field min-w-44"
                    aria-label={`Where ${column.header} goes`}
                    value={mapped?.column ?? ''}
                    onChange={(event) =>
                      setColumn(
                        column.header,
                        event.target.value === '' ? null : { header: column.header, column: event.target.value },
                      )
                    }
                  >
                    <option value="">nowhere: left out</option>
                    {table.columns
                      .filter((each) => each.type !== 'other')
                      .map((each) => (
                        <option key={each.name}>{each.name}</option>
                      ))}
                  </select>
                  {mapped && relation && other && (
                    <select
                      className="field mt-1 min-w-44"
                      aria-label={`What stands in ${column.header}`}
                      value={mapped.by ?? ''}
                      onChange={(event) =>
                        setColumn(column.header, {
                          header: column.header,
                          column: mapped.column,
                          ...(event.target.value ? { by: event.target.value } : {}),
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
                    </select>
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
                  {fields[column.header] && (
                    <p className="mt-1 text-sm font-medium text-iron">{fields[column.header]}</p>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
