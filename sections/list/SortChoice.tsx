import { describeOperand } from '../../core/condition/describe';
import { readPath } from '../../core/definition/path';
import { isClosed, type Table } from '../../core/table/catalogue';
import type { ListSection } from './spec';

/** The order in which a list begins; people may sort it otherwise. */
export function SortChoice({
  table,
  sort,
  columns,
  onChange,
}: {
  table: Table;
  sort: ListSection['sort'];
  columns: string[];
  onChange: (sort: ListSection['sort']) => void;
}) {
  const first = sort[0];
  const choices = [
    ...new Set([
      ...columns,
      ...table.columns.map((column) => column.name).filter((column) => !isClosed(table, column)),
      ...(first ? [first.column] : []),
    ]),
  ];
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm font-semibold">
      <label className="flex items-center gap-2">
        Sorted by
        <select
          className="field w-auto font-normal"
          value={first?.column ?? ''}
          onChange={(event) =>
            onChange(event.target.value ? [{ column: event.target.value, descending: first?.descending ?? false }] : [])
          }
        >
          <option value="">the key</option>
          {choices.map((path) => (
            <option key={path} value={path}>
              {describeOperand({ kind: 'column', path: readPath(path) ?? [path] })}
            </option>
          ))}
        </select>
      </label>
      {first && (
        <select
          aria-label="Direction"
          className="field w-auto font-normal"
          value={first.descending ? 'down' : 'up'}
          onChange={(event) => onChange([{ ...first, descending: event.target.value === 'down' }])}
        >
          <option value="up">ascending</option>
          <option value="down">descending</option>
        </select>
      )}
    </div>
  );
}
