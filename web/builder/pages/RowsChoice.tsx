import type { RowFilter } from '../../../core/definition/definition';
import type { Table } from '../../../core/table/catalogue';
import { Select } from '../../ui/Select';
import { firstCondition } from '../access/choices';
import { ConditionEditor } from '../access/ConditionEditor';

/** Every record that the person sees, or those for which a condition holds. */
export function RowsChoice({
  label,
  name,
  table,
  where,
  onChange,
}: {
  label: string;
  /** What the condition is called to whoever can't see where it stands. */
  name: string;
  table: Table;
  where: RowFilter;
  onChange: (where: RowFilter) => Promise<string | null>;
}) {
  return (
    <div className="grid gap-2">
      <label className="flex flex-wrap items-center gap-2 text-sm font-semibold">
        {label}
        <Select
          className="w-auto font-normal"
          value={where === 'every row' ? 'all' : 'some'}
          onPick={(picked) => void onChange(picked === 'all' ? 'every row' : firstCondition(table))}
        >
          <option value="all">every row</option>
          <option value="some">rows where …</option>
        </Select>
      </label>
      {where !== 'every row' && <ConditionEditor table={table} name={name} value={where} onChange={onChange} />}
    </div>
  );
}
