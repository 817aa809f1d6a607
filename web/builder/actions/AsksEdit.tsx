import type { Action } from '../../../core/definition/action';
import { findColumn, findTable } from '../../../core/table/catalogue';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import type { ChangeAction } from './StepsEdit';

/** What is asked before an action is done: how it is called, whether it must be given, what stands there at first. */
export function AsksEdit({ action, onChange }: { action: Action; onChange: ChangeAction }) {
  const { catalogue } = useBench();
  const names = useNames();
  if (action.asks.length === 0) return null;
  return (
    <fieldset className="grid gap-2">
      <legend className="text-sm font-semibold">What it asks first</legend>
      {action.asks.map(({ id, table, column, label, required, first }) => {
        const called = names.column(table, column);
        const of = findTable(catalogue, table);
        const type = of && findColumn(of, column)?.type;
        const isDay = type === 'date' || type === 'date and time';
        const change = (words: string, recipe: (ask: Action['asks'][number]) => void) =>
          void onChange(words, (next) => recipe(next.asks.find((each) => each.id === id)!));
        const isOwn = table === action.table;
        return (
          <span key={id} className="flex flex-wrap items-center gap-2">
            <input
              className="field w-56"
              aria-label={`What is asked for ${called}`}
              key={label ?? called}
              defaultValue={label ?? called}
              maxLength={120}
              onBlur={(event) => {
                const typed = event.target.value.trim();
                if (typed !== (label ?? called))
                  change(`Call an ask of ${action.name} ${typed}`, (ask) => {
                    if (typed && typed !== called) ask.label = typed;
                    else delete ask.label;
                  });
              }}
            />
            <label className="inline-flex min-h-6 items-center gap-1.5 text-sm">
              <input
                type="checkbox"
                checked={required === true}
                onChange={(event) => {
                  const must = event.target.checked;
                  change(`Set whether ${called} must be given`, (ask) => {
                    if (must) ask.required = true;
                    else delete ask.required;
                  });
                }}
              />{' '}
              must be given
            </label>
            {(isOwn || isDay) && (
              <Select
                aria-label={`What stands at first in ${called}`}
                className="w-auto"
                value={first === undefined ? '' : first.kind}
                onPick={(picked) =>
                  change(`Set what stands in ${called} at first`, (ask) => {
                    if (picked === 'column') ask.first = { kind: 'column', path: [column] };
                    else if (picked === 'clock') ask.first = { kind: 'clock', what: type === 'date' ? 'today' : 'now' };
                    else delete ask.first;
                  })
                }
              >
                <option value="">empty at first</option>
                {isOwn && <option value="column">as the record has it</option>}
                {isDay && <option value="clock">{type === 'date' ? 'today' : 'now'}</option>}
                {first !== undefined && !['column', 'clock'].includes(first.kind) && (
                  <option value={first.kind}>a value</option>
                )}
              </Select>
            )}
          </span>
        );
      })}
    </fieldset>
  );
}
