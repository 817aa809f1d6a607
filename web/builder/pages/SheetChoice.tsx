import type { Sheet } from '../../../core/definition/definition';
import type { ForRoles } from '../../../core/definition/section-kinds';
import type { Table } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { SheetColumns } from './SheetColumns';

/** How a record looks here: as its table's records do everywhere, or in a way of its own. */
export function SheetChoice({
  label,
  title,
  table,
  seen,
  of,
  sheet,
  onChange,
}: {
  label: (table: string) => string;
  title: string;
  table: Table;
  /** Columns that somebody who gets it sees. */
  seen: string[];
  /** Who gets where it stands. */
  of: ForRoles;
  sheet: Sheet | undefined;
  onChange: (sheet: Sheet | null) => Promise<string | null>;
}) {
  const { draft } = useBench();
  const names = useNames();
  return (
    <>
      <label className="inline-flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          checked={sheet === undefined}
          onChange={(event) => {
            const columns = draft.sheets[table.name]?.columns ?? seen;
            void onChange(event.target.checked ? null : { columns: [...columns] });
          }}
        />{' '}
        {label(names.tableInText(table.name))}
      </label>
      {sheet && <SheetColumns title={title} table={table} visible={seen} of={of} sheet={sheet} onChange={onChange} />}
    </>
  );
}
