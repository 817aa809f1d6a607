import { useState, type FormEvent } from 'react';
import { dataClassOf, maskTargets } from '../../../core/definition/definition';
import type { Column, Table } from '../../../core/table/catalogue';
import { counted } from '../../../core/text/counted';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';

/**
 * Of a column of a saved query: what it is made of, whose data class and masks it therefore keeps, and the builder's
 * word that it is not that any more.
 */
export function QueryColumn({ table, column }: { table: Table; column: Column }) {
  const { draft, edit } = useBench();
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState('');
  if (!column.from) return null;
  const apart = draft.tables[table.name]?.columns?.[column.name]?.apart;
  const kept = dataClassOf(draft, table, column.name);
  const masks = draft.masks.filter((rule) => maskTargets(draft, rule, table, column.name)).length;
  const set = (next: string | null) =>
    edit(
      next === null
        ? `Let ${table.name}.${column.name} keep what it comes from`
        : `Set ${table.name}.${column.name} apart`,
      (portal) => {
        const columns = ((portal.tables[table.name] ??= {}).columns ??= {});
        const notes = { ...columns[column.name] };
        if (next === null) delete notes.apart;
        else notes.apart = next;
        columns[column.name] = notes;
      },
    );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void set(reason.trim()).then((problem) => {
      if (problem === null) {
        setAsking(false);
        setReason('');
      }
    });
  };
  if (column.from.length === 0)
    return <span className="block max-w-64 text-sm font-normal whitespace-normal text-soft">made of no column</span>;
  return (
    <span className="block max-w-64 text-sm font-normal whitespace-normal">
      <span className="text-soft">made of {column.from.map((each) => `${each.table}.${each.column}`).join(', ')}</span>
      {apart === undefined ? (
        <span className="block">
          {kept || masks > 0
            ? 'keeps ' +
              [kept ? `the class ${kept}` : '', masks > 0 ? counted(masks, 'mask') : ''].filter(Boolean).join(' and ') +
              ' of these. '
            : ''}
          {!asking && (
            <button
              type="button"
              className="text-water underline"
              aria-label={`Set ${column.name} apart`}
              onClick={() => setAsking(true)}
            >
              It is not that any more …
            </button>
          )}
        </span>
      ) : (
        <span className="block">
          set apart: {apart}{' '}
          <button
            type="button"
            className="text-water underline"
            aria-label={`Let ${column.name} keep what it comes from`}
            onClick={() => void set(null)}
          >
            take it back
          </button>
        </span>
      )}
      {asking && (
        <form className="mt-1 grid gap-1.5" aria-label={`Set ${column.name} apart`} onSubmit={submit}>
          <input
            className="field"
            aria-label={`Why ${column.name} is not what it comes from`}
            placeholder="why, such as: yearly totals"
            required
            minLength={3}
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <span className="flex gap-1.5">
            <Button small type="submit" weight="main" disabled={reason.trim().length < 3}>
              Set it apart
            </Button>
            <Button small onClick={() => setAsking(false)}>
              Cancel
            </Button>
          </span>
        </form>
      )}
    </span>
  );
}
