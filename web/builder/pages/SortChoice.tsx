import { describeOperand } from '../../../core/condition/describe';
import { readPath } from '../../../core/definition/path';
import { isClosed, type Table } from '../../../core/table/catalogue';
import { Select } from '../../ui/Select';

type Sort = { column: string; descending: boolean }[];

/** The order in which a list begins; people may sort it otherwise. */
export function SortChoice({
  table,
  sort,
  columns,
  none = 'the key',
  onChange,
}: {
  table: Table;
  sort: Sort;
  columns: string[];
  /** What is said where it has no order of its own. */
  none?: string;
  onChange: (sort: Sort) => void;
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
        <Select
          className="w-auto font-normal"
          value={first?.column ?? ''}
          onPick={(picked) => onChange(picked ? [{ column: picked, descending: first?.descending ?? false }] : [])}
        >
          <option value="">{none}</option>
          {choices.map((path) => (
            <option key={path} value={path}>
              {describeOperand({ kind: 'column', path: readPath(path) ?? [path] })}
            </option>
          ))}
        </Select>
      </label>
      {first && (
        <Select
          aria-label="Direction"
          className="w-auto font-normal"
          value={first.descending ? 'down' : 'up'}
          onPick={(picked) => onChange([{ ...first, descending: picked === 'down' }])}
        >
          <option value="up">ascending</option>
          <option value="down">descending</option>
        </Select>
      )}
    </div>
  );
}
