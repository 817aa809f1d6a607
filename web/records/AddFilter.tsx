import { useState, type FormEvent } from 'react';
import { ListFilter } from 'lucide-react';
import { constantOf } from '../../core/condition/constant';
import { parseCondition } from '../../core/condition/parse';
import type { ColumnOperand, Condition, Operand } from '../../core/condition/tree';
import { printPath, readPath } from '../../core/definition/path';
import { isDate } from '../../core/table/value';
import { Button } from '../ui/Button';
import type { ColumnInfo } from '../client/portal';
import { isNumeric } from './Cell';
import { ColumnInput } from './ColumnInput';
import { optionsOf } from './options';
import { Field } from '../ui/Field';
import { Popover } from '../ui/Popover';
import { Select } from '../ui/Select';

/** Adds one condition on one column; open from the start. */
export default function AddFilter({
  base,
  table,
  columns,
  onAdd,
}: {
  base: string;
  table: string;
  columns: ColumnInfo[];
  onAdd: (part: Condition) => void;
}) {
  const [open, setOpen] = useState(true);
  const [path, setPath] = useState('');
  const column = columns.find((each) => each.path === path) ?? columns[0];
  const [values, setValues] = useState<Record<string, string>>({});
  if (!column) return null;
  const condition = ownOf(column, values) ?? emptiness(column, values.empty) ?? conditionOf(column, values);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!condition) return;
    onAdd(condition);
    setValues({});
    setOpen(false);
  };
  const set = (name: string) => (text: string) => setValues((before) => ({ ...before, [name]: text }));
  const kind = filterKind(column);
  return (
    <Popover
      label="Add a filter"
      className="w-72"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <Button>
          <ListFilter size={15} aria-hidden /> Filter
        </Button>
      }
    >
      <form onSubmit={submit} className="grid gap-3">
        <Field label="Column">
          {(ids) => (
            <Select
              {...ids}
              value={column.path}
              onPick={(picked) => {
                setPath(picked);
                setValues({});
              }}
            >
              {columns.map((each) => (
                <option key={each.path} value={each.path}>
                  {each.label}
                </option>
              ))}
            </Select>
          )}
        </Field>
        {column.own && (
          <label className="flex min-h-6 items-center gap-2">
            <input
              type="checkbox"
              checked={values[isOwn] === 'on'}
              onChange={(event) => set(isOwn)(event.target.checked ? 'on' : '')}
            />{' '}
            is {column.own.said}
          </label>
        )}
        {kind === 'choice' && (
          <fieldset className="grid gap-1">
            <legend className="text-sm font-semibold">is one of</legend>
            {optionsOf(column)!.map(([choice, called]) => (
              <label key={choice} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={values[choice] === 'on'}
                  onChange={(event) => set(choice)(event.target.checked ? 'on' : '')}
                />{' '}
                {called}
              </label>
            ))}
          </fieldset>
        )}
        {(kind === 'truth' || kind === 'same' || kind === 'relation') && (
          <Field label="is">
            {(ids) => (
              <ColumnInput
                key={column.path}
                column={{ ...column, nullable: true, ...(kind === 'same' ? plainInput : {}) }}
                value={values.is ?? ''}
                onChange={set('is')}
                place={{ base, table, id: null }}
                inputProps={ids}
              />
            )}
          </Field>
        )}
        {kind === 'text' && (
          <Field label="contains">
            {(ids) => (
              <input
                className="field"
                {...ids}
                value={values.has ?? ''}
                onChange={(event) => set('has')(event.target.value)}
              />
            )}
          </Field>
        )}
        {(kind === 'number' || kind === 'date') && (
          <div className="grid grid-cols-2 gap-2">
            {(['from', 'to'] as const).map((end) => (
              <Field key={end} label={end}>
                {(ids) => (
                  <ColumnInput
                    column={{
                      path: column.path,
                      label: `${column.label} ${end}`,
                      type: kind === 'date' ? 'date' : 'decimal',
                      nullable: true,
                    }}
                    value={values[end] ?? ''}
                    onChange={set(end)}
                    place={{ base, table, id: null }}
                    inputProps={ids}
                  />
                )}
              </Field>
            ))}
          </div>
        )}
        {kind === 'date' && (
          <Field label="or within">
            {(ids) => (
              <Select {...ids} value={values.days ?? ''} onPick={set('days')}>
                <option value="">any time</option>
                {spans.map(([days, words]) => (
                  <option key={days} value={days}>
                    {words}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
        {column.nullable && column.asked === 'value' && (
          <Field label="or">
            {(ids) => (
              <Select {...ids} value={values.empty ?? ''} onPick={set('empty')}>
                <option value="">whatever it holds</option>
                <option value="yes">is empty</option>
                <option value="no">is not empty</option>
              </Select>
            )}
          </Field>
        )}
        <Button type="submit" weight="main" disabled={!condition}>
          Narrow the list
        </Button>
      </form>
    </Popover>
  );
}

/** No choice of a column is called so: a name of ours among what was filled in. */
const isOwn = '\u0000own';

/** That it is whoever reads: written by what they are, so that it is each reader's own in a view that is shared. */
function ownOf(column: ColumnInfo, values: Record<string, string>): Condition | null {
  if (!column.own || values[isOwn] !== 'on') return null;
  return parseCondition(`${printPath(readPath(column.path) ?? [])} = ${column.own.value}`).condition;
}

const plainInput = { type: 'text', choices: undefined, labels: undefined, relation: undefined } as const;

type FilterKind = 'choice' | 'truth' | 'text' | 'same' | 'relation' | 'number' | 'date';

function filterKind(column: ColumnInfo): FilterKind {
  if (column.asked === 'text' || column.asked === 'same') return column.asked;
  if (column.asked === 'value' && column.relation && !column.path.includes('.')) return 'relation';
  if (column.asked === 'value' && (column.type === 'one choice' || column.labels)) return 'choice';
  if (column.asked === 'number' || isNumeric(column.type)) return 'number';
  if (column.type === 'yes/no') return 'truth';
  return column.type === 'date' || column.type === 'date and time' ? 'date' : 'text';
}

/** Days from today, back or to come. */
const spans = [
  ['-7', 'the last 7 days'],
  ['-30', 'the last 30 days'],
  ['-365', 'the last 365 days'],
  ['7', 'the next 7 days'],
  ['30', 'the next 30 days'],
] as const;

/** Days around today: those before it with it, or those to come with it. */
function withinDays(column: ColumnInfo, left: ColumnOperand, days: number): Condition {
  const today = { kind: 'clock', what: 'today' } as const;
  const moved = (count: number) => ({ kind: 'shifted', of: today, count, unit: 'DAY' }) as const;
  if (column.type === 'date')
    return days < 0
      ? { kind: 'between', left, low: moved(days), high: today }
      : { kind: 'between', left, low: today, high: moved(days) };
  const at = (comparison: '>=' | '<', right: Operand): Condition => ({ kind: 'compare', left, comparison, right });
  // A moment of the last day is before the day after.
  const parts = days < 0 ? [at('>=', moved(days)), at('<', moved(1))] : [at('>=', today), at('<', moved(days + 1))];
  return { kind: 'all', parts };
}

function emptiness(column: ColumnInfo, empty: string | undefined): Condition | null {
  if (!empty) return null;
  const holds: Condition = { kind: 'null', left: { kind: 'column', path: readPath(column.path) ?? [] } };
  return empty === 'yes' ? holds : { kind: 'not', part: holds };
}

/** What was filled in, as a condition; null while it says nothing yet or isn't a number. */
function conditionOf(column: ColumnInfo, values: Record<string, string>): Condition | null {
  const left = { kind: 'column' as const, path: readPath(column.path) ?? [] };
  const kind = filterKind(column);
  const constant = (text: string) => constantOf(column.type, text);
  if (kind === 'choice') {
    const chosen = optionsOf(column)!.flatMap(([choice]) => (values[choice] === 'on' ? [choice] : []));
    return chosen.length ? { kind: 'in', left, list: chosen.map(constant) } : null;
  }
  if (kind === 'text') {
    const has = values.has?.trim();
    return has
      ? { kind: 'like', left, pattern: { kind: 'text', text: `%${has.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%` } }
      : null;
  }
  if (kind === 'truth' || kind === 'same' || kind === 'relation') {
    const is = values.is?.trim();
    if (!is) return null;
    const right = kind === 'same' ? { kind: 'text' as const, text: is } : constant(is);
    return { kind: 'compare', left, comparison: '=', right };
  }
  const bound = (text: string | undefined, end: boolean) => {
    const value = kind === 'date' ? text?.trim() : text?.trim().replace(',', '.');
    if (!value) return null;
    if (kind === 'date' && !isDate(value)) return null;
    if (kind === 'date')
      return { kind: 'text' as const, text: end && column.type === 'date and time' ? `${value} 23:59:59` : value };
    return /^-?\d{1,20}(\.\d{1,10})?$/.test(value) ? { kind: 'number' as const, digits: value } : null;
  };
  if (kind === 'date' && values.days) return withinDays(column, left, Number(values.days));
  const low = bound(values.from, false);
  const high = bound(values.to, true);
  if (low && high) return { kind: 'between', left, low, high };
  if (low) return { kind: 'compare', left, comparison: '>=', right: low };
  return high ? { kind: 'compare', left, comparison: '<=', right: high } : null;
}
