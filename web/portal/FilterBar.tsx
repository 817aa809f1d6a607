import { useState, type FormEvent } from 'react';
import { Popover } from 'radix-ui';
import { ListFilter, Search, X } from 'lucide-react';
import { describeCondition } from '../../core/condition/describe';
import { parseCondition } from '../../core/condition/parse';
import { printCondition } from '../../core/condition/print';
import type { Condition } from '../../core/condition/tree';
import { readPath } from '../../core/definition/path';
import { Button } from '../ui/Button';
import type { ColumnInfo } from '../client/portal';
import { isNumeric } from '../ui/Cell';
import { plainQuery, usePlace } from './place';

/** The conditions of a filter's text, each shown as a chip; a broken text gives none. */
export function filterParts(text: string): Condition[] {
  if (text.trim() === '') return [];
  try {
    const { condition } = parseCondition(text);
    return condition.kind === 'all' ? condition.parts : [condition];
  } catch {
    return [];
  }
}

function filterText(parts: Condition[]): string {
  return parts.length === 0 ? '' : printCondition(parts.length === 1 ? parts[0]! : { kind: 'all', parts });
}

/** Search, the conditions that narrow the list, and a way to add one. */
export function FilterBar({ columns, noun }: { columns: ColumnInfo[]; noun: string }) {
  const { spot, go } = usePlace();
  const [typed, setTyped] = useState(spot.query.search);
  const parts = filterParts(spot.query.filter);
  const narrow = (change: Partial<typeof plainQuery>) => go({ ...spot, record: null, query: { ...spot.query, after: '', before: '', ...change } });
  const naming = (path: string[]) => columns.find((column) => readPath(column.path)?.join('.') === path.join('.'))?.label ?? path.join(' ');
  const search = (event: FormEvent) => {
    event.preventDefault();
    narrow({ search: typed.trim() });
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <form role="search" onSubmit={search} className="relative min-w-40 flex-1 basis-48 max-w-72">
        <Search size={15} aria-hidden className="absolute left-2 top-1/2 -translate-y-1/2 text-soft" />
        <input type="search" aria-label={`Find in ${noun}`} placeholder={`Find in ${noun}`} className="field pl-7" value={typed} maxLength={200}
          onChange={(event) => { setTyped(event.target.value); if (event.target.value === '' && spot.query.search) narrow({ search: '' }); }} />
      </form>
      {parts.map((part, i) => (
        <span key={i} className="inline-flex items-center rounded-stone border border-water bg-water-wash text-sm">
          <span className="px-2 py-1">{describeCondition(part, naming)}</span>
          <button type="button" aria-label={`Remove: ${describeCondition(part, naming)}`} className="min-h-8 px-2 hover:bg-sunk" onClick={() => narrow({ filter: filterText(parts.filter((_, j) => j !== i)) })}>
            <X size={14} aria-hidden />
          </button>
        </span>
      ))}
      <AddFilter columns={columns.filter((column) => column.asked && column.type !== 'several choices' && column.type !== 'time' && column.type !== 'other')} onAdd={(part) => narrow({ filter: filterText([...parts, part]) })} />
    </div>
  );
}

function AddFilter({ columns, onAdd }: { columns: ColumnInfo[]; onAdd: (part: Condition) => void }) {
  const [open, setOpen] = useState(false);
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
  const set = (name: string) => (event: { target: { value: string } }) => setValues({ ...values, [name]: event.target.value });
  const kind = filterKind(column);
  const inputType = kind === 'date' ? 'date' : 'text';
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild><Button><ListFilter size={15} aria-hidden /> Filter</Button></Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={4} collisionPadding={8} className="z-30 w-72 rounded-stone border border-line-strong bg-paper p-3 text-ink" aria-label="Add a filter">
          <form onSubmit={submit} className="grid gap-3">
            <label className="grid gap-1 text-sm font-semibold">Column
              <select className="field font-normal" value={column.path} onChange={(event) => { setPath(event.target.value); setValues({}); }}>
                {columns.map((each) => <option key={each.path} value={each.path}>{each.label}</option>)}
              </select>
            </label>
            {kind === 'choice' && (
              <fieldset className="grid gap-1"><legend className="text-sm font-semibold">is one of</legend>
                {column.choices!.map((choice) => (
                  <label key={choice} className="flex items-center gap-2"><input type="checkbox" checked={values[choice] === 'on'} onChange={(event) => setValues({ ...values, [choice]: event.target.checked ? 'on' : '' })} /> {choice}</label>
                ))}
              </fieldset>
            )}
            {kind === 'truth' && (
              <label className="grid gap-1 text-sm font-semibold">is
                <select className="field font-normal" value={values.is ?? ''} onChange={set('is')}><option value="">choose</option><option value="yes">yes</option><option value="no">no</option></select>
              </label>
            )}
            {kind === 'text' && <label className="grid gap-1 text-sm font-semibold">contains<input className="field font-normal" value={values.has ?? ''} onChange={set('has')} /></label>}
            {(kind === 'number' || kind === 'date') && (
              <div className="grid grid-cols-2 gap-2">
                <label className="grid gap-1 text-sm font-semibold">from<input className="field font-normal" type={inputType} inputMode={kind === 'number' ? 'decimal' : undefined} value={values.from ?? ''} onChange={set('from')} /></label>
                <label className="grid gap-1 text-sm font-semibold">to<input className="field font-normal" type={inputType} inputMode={kind === 'number' ? 'decimal' : undefined} value={values.to ?? ''} onChange={set('to')} /></label>
              </div>
            )}
            <Button type="submit" weight="main" disabled={!condition}>Narrow the list</Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function filterKind(column: ColumnInfo): 'choice' | 'truth' | 'text' | 'number' | 'date' {
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
  if (kind === 'truth') return values.is ? { kind: 'compare', left, comparison: '=', right: { kind: 'boolean', value: values.is === 'yes' } } : null;
  if (kind === 'text') {
    const has = values.has?.trim();
    return has ? { kind: 'like', left, pattern: { kind: 'text', text: `%${has.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%` } } : null;
  }
  const bound = (text: string | undefined, end: boolean) => {
    const value = text?.trim().replace(',', '.');
    if (!value) return null;
    if (kind === 'date') return { kind: 'text' as const, text: end && column.type === 'date and time' ? `${value} 23:59:59` : value };
    return /^-?\d{1,20}(\.\d{1,10})?$/.test(value) ? { kind: 'number' as const, digits: value } : null;
  };
  const low = bound(values.from, false);
  const high = bound(values.to, true);
  if (low && high) return { kind: 'between', left, low, high };
  if (low) return { kind: 'compare', left, comparison: '>=', right: low };
  return high ? { kind: 'compare', left, comparison: '<=', right: high } : null;
}
