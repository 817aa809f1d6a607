import { useState, type FormEvent } from 'react';
import { Popover } from 'radix-ui';
import { ListFilter } from 'lucide-react';
import type { Condition } from '../../core/condition/tree';
import { readPath } from '../../core/definition/path';
import { Button } from '../ui/Button';
import type { ColumnInfo } from '../client/portal';
import { isNumeric } from '../ui/Cell';

/** Adds one condition on one column; open from the start. */
export default function AddFilter({ columns, onAdd }: { columns: ColumnInfo[]; onAdd: (part: Condition) => void }) {
  const [open, setOpen] = useState(true);
  const [path, setPath] = useState('');
  const column = columns.find((each) => each.path === path) ?? columns[0];
  const [values, setValues] = useState<Record<string, string>>({});
  if (!column) return null;
  const condition = conditionOf(column, values);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!condition) return;
    onAdd(condition);
    setValues({});
    setOpen(false);
  };
  const set = (name: string) => (event: { target: { value: string } }) =>
    setValues({ ...values, [name]: event.target.value });
  const kind = filterKind(column);
  const inputType = kind === 'date' ? 'date' : 'text';
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button>
          <ListFilter size={15} aria-hidden /> Filter
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          className="z-30 w-72 rounded-stone border border-line-strong bg-paper p-3 text-ink"
          aria-label="Add a filter"
        >
          <form onSubmit={submit} className="grid gap-3">
            <label className="grid gap-1 text-sm font-semibold">
              Column
              <select
                className="field font-normal"
                value={column.path}
                onChange={(event) => {
                  setPath(event.target.value);
                  setValues({});
                }}
              >
                {columns.map((each) => (
                  <option key={each.path} value={each.path}>
                    {each.label}
                  </option>
                ))}
              </select>
            </label>
            {kind === 'choice' && (
              <fieldset className="grid gap-1">
                <legend className="text-sm font-semibold">is one of</legend>
                {column.choices!.map((choice) => (
                  <label key={choice} className="flex items-center gap-2">
                    <input
                      type="checkbox"
                      checked={values[choice] === 'on'}
                      onChange={(event) => setValues({ ...values, [choice]: event.target.checked ? 'on' : '' })}
                    />{' '}
                    {choice}
                  </label>
                ))}
              </fieldset>
            )}
            {kind === 'truth' && (
              <label className="grid gap-1 text-sm font-semibold">
                is
                <select className="field font-normal" value={values.is ?? ''} onChange={set('is')}>
                  <option value="">choose</option>
                  <option value="yes">yes</option>
                  <option value="no">no</option>
                </select>
              </label>
            )}
            {kind === 'text' && (
              <label className="grid gap-1 text-sm font-semibold">
                contains
                <input className="field font-normal" value={values.has ?? ''} onChange={set('has')} />
              </label>
            )}
            {kind === 'same' && (
              <label className="grid gap-1 text-sm font-semibold">
                is
                <input className="field font-normal" value={values.has ?? ''} onChange={set('has')} />
              </label>
            )}
            {(kind === 'number' || kind === 'date') && (
              <div className="grid grid-cols-2 gap-2">
                <label className="grid gap-1 text-sm font-semibold">
                  from
                  <input
                    className="field font-normal"
                    type={inputType}
                    inputMode={kind === 'number' ? 'decimal' : undefined}
                    value={values.from ?? ''}
                    onChange={set('from')}
                  />
                </label>
                <label className="grid gap-1 text-sm font-semibold">
                  to
                  <input
                    className="field font-normal"
                    type={inputType}
                    inputMode={kind === 'number' ? 'decimal' : undefined}
                    value={values.to ?? ''}
                    onChange={set('to')}
                  />
                </label>
              </div>
            )}
            <Button type="submit" weight="main" disabled={!condition}>
              Narrow the list
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function filterKind(column: ColumnInfo): 'choice' | 'truth' | 'text' | 'same' | 'number' | 'date' {
  if (column.asked === 'text' || column.asked === 'same') return column.asked;
  if (column.asked === 'number' || isNumeric(column.type)) return 'number';
  if (column.type === 'one choice') return 'choice';
  if (column.type === 'yes/no') return 'truth';
  return column.type === 'date' || column.type === 'date and time' ? 'date' : 'text';
}

/** What was filled in, as a condition; null while it says nothing yet or isn't a number. */
function conditionOf(column: ColumnInfo, values: Record<string, string>): Condition | null {
  const left = { kind: 'column' as const, path: readPath(column.path) ?? [] };
  const kind = filterKind(column);
  if (kind === 'choice') {
    const chosen = column.choices!.filter((choice) => values[choice] === 'on');
    return chosen.length ? { kind: 'in', left, list: chosen.map((text) => ({ kind: 'text', text })) } : null;
  }
  if (kind === 'truth')
    return values.is
      ? { kind: 'compare', left, comparison: '=', right: { kind: 'boolean', value: values.is === 'yes' } }
      : null;
  if (kind === 'text') {
    const has = values.has?.trim();
    return has
      ? { kind: 'like', left, pattern: { kind: 'text', text: `%${has.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%` } }
      : null;
  }
  if (kind === 'same')
    return values.has?.trim()
      ? { kind: 'compare', left, comparison: '=', right: { kind: 'text', text: values.has.trim() } }
      : null;
  const bound = (text: string | undefined, end: boolean) => {
    const value = text?.trim().replace(',', '.');
    if (!value) return null;
    if (kind === 'date')
      return { kind: 'text' as const, text: end && column.type === 'date and time' ? `${value} 23:59:59` : value };
    return /^-?\d{1,20}(\.\d{1,10})?$/.test(value) ? { kind: 'number' as const, digits: value } : null;
  };
  const low = bound(values.from, false);
  const high = bound(values.to, true);
  if (low && high) return { kind: 'between', left, low, high };
  if (low) return { kind: 'compare', left, comparison: '>=', right: low };
  return high ? { kind: 'compare', left, comparison: '<=', right: high } : null;
}
