import { historyOf } from '../../../core/definition/history';
import type { Table } from '../../../core/table/catalogue';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';

const kept = {
  '': 'for as long as there is the portal',
  90: '90 days',
  365: 'a year',
  1096: 'three years',
  3653: 'ten years',
};

/** Whether a table keeps what changes in its records, and for how long. */
export function TableHistory({ table }: { table: Table }) {
  const { draft, edit } = useBench();
  const own = draft.tables[table.name]?.history;
  const days = String(own?.days ?? '');
  const isKept = own !== undefined;
  const set = (label: string, history: typeof own) =>
    void edit(`${label} ${table.name}`, (next) => {
      const notes = (next.tables[table.name] ??= {});
      if (history) notes.history = history;
      else delete notes.history;
    });
  const choices = { ...kept, ...(days in kept ? {} : { [days]: `${days} days` }) };
  if (table.key.length === 0 || table.keyByWord)
    return (
      <div className="p-4">
        <Notice kind="say">
          One record of {table.name} is not told apart from another by the database, so what changes in it can&apos;t be
          kept.
        </Notice>
      </div>
    );
  return (
    <div className="grid content-start gap-3 p-4">
      <p className="max-w-160">
        With each change that comes through a portal, by hand, an action, a form, a key or a file, what stood in the
        record before and after it is kept, with who made it and when. What programs write into the database beside the
        portal is not seen here.
      </p>
      <label className="inline-flex min-h-6 items-center gap-1.5">
        <input
          type="checkbox"
          checked={isKept}
          onChange={({ target: { checked } }) =>
            set(checked ? 'Keep what changes in' : 'Keep no more of what changes in', checked ? {} : undefined)
          }
        />{' '}
        Keep what changes in {table.name}
      </label>
      {isKept && (
        <p className="flex flex-wrap items-center gap-2">
          It is kept{' '}
          <Select
            aria-label="How long it is kept"
            className="w-auto"
            value={days}
            onPick={(next) => set('Set how long changes are kept of', next === '' ? {} : { days: Number(next) })}
          >
            {Object.entries(choices).map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </Select>
        </p>
      )}
      <p className="max-w-160 text-sm text-soft">
        Members read it where their access says so, under Access, and only of cells that were and are theirs to see. You
        find it beside each record under Rows. {historyOf(draft, table) && 'It begins once this is published.'} What was
        kept stays when it is switched off, and is read again when it is switched on; it is erased record by record.
      </p>
    </div>
  );
}
