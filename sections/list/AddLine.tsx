import { useRef, type KeyboardEvent } from 'react';
import type { ColumnInfo } from '../../web/client/portal';
import { usePlace } from '../../web/place/place';
import { ColumnInput } from '../../web/records/ColumnInput';
import { useNewRecord } from '../../web/records/new-record';
import { Button } from '../../web/ui/Button';
import type { ShowProps } from '../show';

/** The last line of a list, in which a new record is filled: Enter adds it, and the next can be begun. */
export default function AddLine({
  section,
  columns,
  isTicked,
}: {
  section: ShowProps<'list'>['section'];
  columns: ColumnInfo[];
  /** Whether a column of ticks stands first. */
  isTicked: boolean;
}) {
  const { base, seenBy } = usePlace();
  const line = useRef<HTMLTableRowElement>(null);
  const { typed, type, faults, isBusy, isDirty, send } = useNewRecord({
    table: section.table,
    all: columns.filter(({ path }) => section.line.includes(path)),
    onMade: () => line.current?.querySelector<HTMLElement>('input, textarea, button')?.focus(),
  });
  const add = () => {
    if (isDirty && !isBusy && !seenBy) void send();
  };
  const press = (event: KeyboardEvent) => {
    if (event.key !== 'Enter' || event.shiftKey) return;
    event.preventDefault();
    add();
  };
  return (
    <tbody className="no-print border-t border-line bg-sunk">
      <tr ref={line}>
        {isTicked && <td />}
        {columns.map((column) => (
          <td key={column.path} className="px-2 pt-2 align-top">
            {section.line.includes(column.path) && (
              <>
                <ColumnInput
                  column={column}
                  value={typed[column.path] ?? ''}
                  onChange={type(column.path)}
                  place={{ base, table: section.table, id: null }}
                  inputProps={{
                    'aria-label': `${column.label} of a new line`,
                    'aria-invalid': faults[column.path] !== undefined,
                    ...(column.type === 'one choice' || column.relation ? {} : { onKeyDown: press }),
                  }}
                />
                {faults[column.path] && (
                  <p role="alert" className="text-sm font-medium text-iron">
                    {faults[column.path]}
                  </p>
                )}
              </>
            )}
          </td>
        ))}
      </tr>
      <tr>
        <td colSpan={columns.length + (isTicked ? 1 : 0)} className="px-2 py-2">
          <span className="flex flex-wrap items-center gap-3">
            <Button small disabled={!isDirty || isBusy || seenBy} onClick={add}>
              {isBusy ? 'Adding …' : 'Add this line'}
            </Button>
            {faults[''] && (
              <span role="alert" className="text-sm font-medium text-iron">
                {faults['']}
              </span>
            )}
          </span>
        </td>
      </tr>
    </tbody>
  );
}
