import type { Condition } from '../../../core/condition/tree';
import { type Grant, type Role, type RowFilter, columnLabel } from '../../../core/definition/definition';
import { type Table, plainLabel } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { ConditionEditor } from './ConditionEditor';
import { type ListChange, ticking } from './RoleTicks';
import { Select } from '../../ui/Select';

export type Change = (label: string, recipe: (grant: Grant) => Grant | null) => Promise<string | null>;

export interface PartProps {
  table: Table;
  role: Role;
  grant: Grant;
  change: Change;
  begin: () => Condition;
}

/** A choice of rows in words. */
export function RowChoice({
  name,
  value,
  words,
  onChange,
}: {
  name: string;
  value: string;
  words: Record<string, string>;
  onChange: (value: string) => void;
}) {
  return (
    <Select aria-label={name} className="w-auto" value={value} onPick={(picked) => onChange(picked)}>
      {Object.entries(words).map(([each, text]) => (
        <option key={each} value={each}>
          {text}
        </option>
      ))}
    </Select>
  );
}

export const kindOf = (where: RowFilter | 'as seen' | undefined): string =>
  where === undefined ? 'none' : where === 'every row' ? 'all' : where === 'as seen' ? 'seen' : 'some';

/** What must still hold of a record after it was made or changed. */
export function KeepIn({
  table,
  role,
  name,
  value,
  like,
  begin,
  onChange,
}: {
  table: Table;
  role: Role;
  name: string;
  value: RowFilter | undefined;
  like: string;
  begin: PartProps['begin'];
  onChange: (value: RowFilter | undefined) => Promise<string | null>;
}) {
  return (
    <div className="grid gap-2">
      <p className="flex flex-wrap items-center gap-2">
        Afterwards it must satisfy{' '}
        <RowChoice
          name={name}
          value={value === undefined ? 'like' : value === 'every row' ? 'all' : 'some'}
          words={{ like, some: 'a rule of its own …', all: 'nothing: it may leave their reach' }}
          onChange={(choice) => void onChange(choice === 'like' ? undefined : choice === 'all' ? 'every row' : begin())}
        />
      </p>
      {value !== undefined && value !== 'every row' && (
        <ConditionEditor table={table} role={role} name={name} value={value} onChange={onChange} />
      )}
    </div>
  );
}

export function Ticks({
  legend,
  table,
  names,
  ticked,
  onChange,
}: {
  legend: string;
  table: Table;
  names: string[];
  ticked: string[];
  onChange: (change: ListChange) => void;
}) {
  const { draft } = useBench();
  return (
    <fieldset>
      <legend className="text-sm font-semibold">{legend}</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {names.map((name) => (
          <label key={name} className="inline-flex min-h-6 items-center gap-1.5">
            <input
              type="checkbox"
              checked={ticked.includes(name)}
              onChange={(event) => onChange(ticking(names, name, event.target.checked))}
            />{' '}
            {columnLabel(draft, table.name, name, plainLabel)}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
