import { useRef, useState, type KeyboardEvent } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { fromPlain } from '../../core/table/plain-text';
import { ServerProblem } from '../../web/client/http';
import { records, type ColumnInfo } from '../../web/client/portal';
import { useDone } from '../../web/place/done';
import { usePlace, useUnsaved } from '../../web/place/place';
import { ColumnInput } from '../../web/records/ColumnInput';
import { faultsIn } from '../../web/records/field-faults';
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
  const client = useQueryClient();
  const say = useDone();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [faults, setFaults] = useState<Record<string, string>>({});
  const [isBusy, setBusy] = useState(false);
  const line = useRef<HTMLTableRowElement>(null);
  const filled = columns.filter(({ path }) => section.line.includes(path));
  const isDirty = Object.values(typed).some((text) => text !== '');
  const settled = useUnsaved(isDirty);
  const send = async () => {
    if (!isDirty || isBusy || seenBy) return;
    setBusy(true);
    const values = Object.fromEntries(
      filled.flatMap((column) => {
        const text = typed[column.path] ?? '';
        return text === '' ? [] : [[column.path, fromPlain(column, text)]];
      }),
    );
    try {
      const made = await records(base)('POST /records/:table', { params: { table: section.table }, body: { values } });
      settled();
      setTyped({});
      setFaults({});
      void client.invalidateQueries({ queryKey: [base] });
      say({ words: made.record ? 'Added.' : 'Added. It is not among what you see here.' });
      line.current?.querySelector<HTMLElement>('input, textarea, button')?.focus();
    } catch (error) {
      if (!(error instanceof ServerProblem)) throw error;
      setFaults(faultsIn(error, filled));
    } finally {
      setBusy(false);
    }
  };
  const press = (event: KeyboardEvent) => {
    if (event.key !== 'Enter' || event.shiftKey) return;
    event.preventDefault();
    void send();
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
                  onChange={(text) => setTyped((before) => ({ ...before, [column.path]: text }))}
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
            <Button small disabled={!isDirty || isBusy || seenBy} onClick={() => void send()}>
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
