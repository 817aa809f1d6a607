import type { ReactNode } from 'react';
import type { Condition } from '../../../core/condition/tree';
import type { PortalDefinition } from '../../../core/definition/definition';
import type { Steward } from '../../../core/definition/steward';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { Select } from '../../ui/Select';
import { firstCondition } from '../access/choices';
import { ConditionEditor } from '../access/ConditionEditor';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

/** Changes one steward of the draft. */
export function useStewardEdit<S extends Steward>(steward: S) {
  const { edit } = useBench();
  return (label: string, recipe: (steward: S) => void) =>
    edit(label, (next) => {
      const found = next.stewards?.find((each) => each.id === steward.id);
      if (found) recipe(found as S);
    });
}

/** The roles of members, to choose one. */
export const memberRoles = (draft: PortalDefinition): ReactNode =>
  draft.roles
    .filter((role) => (role.for ?? 'members') === 'members')
    .map((role) => (
      <option key={role.id} value={role.id}>
        {role.name}
      </option>
    ));

/** Whose right it is. */
export function StewardRole({ steward }: { steward: Steward }) {
  const { draft } = useBench();
  const change = useStewardEdit(steward);
  return (
    <label className="flex flex-wrap items-center gap-2">
      Who
      <Select
        className="w-auto"
        value={steward.role}
        onPick={(role) =>
          void change('Choose who is steward', (next) => {
            next.role = role;
          })
        }
      >
        {memberRoles(draft)}
      </Select>
    </label>
  );
}

/** Of which roster the people are. */
export function RosterChoice({
  label,
  value,
  onPick,
}: {
  label: string;
  value: string;
  onPick: (roster: string) => void;
}) {
  const { draft } = useBench();
  const names = useNames();
  return (
    <label className="flex flex-wrap items-center gap-2">
      {label}
      <Select className="w-auto" value={value} onPick={onPick}>
        {draft.rosters.map(({ table }) => (
          <option key={table} value={table}>
            {names.table(table)}
          </option>
        ))}
      </Select>
    </label>
  );
}

/** All rows, or those of which a condition is true. */
export function Narrowed({
  table,
  name,
  all,
  value,
  begin,
  onChange,
}: {
  table: Table;
  /** What the condition is called. */
  name: string;
  /** What is said while there is none. */
  all: string;
  value: Condition | undefined;
  /** What to begin with, where there is something that suits. */
  begin?: Condition | null;
  onChange: (where: Condition | undefined) => Promise<string | null>;
}) {
  return value === undefined ? (
    <p className="flex flex-wrap items-center gap-3 text-soft">
      {all}
      <Button small onClick={() => void onChange(begin ?? firstCondition(table))}>
        Only where …
      </Button>
    </p>
  ) : (
    <div className="grid gap-2">
      <div className="flex items-center gap-3">
        <span className="text-sm font-semibold">{name}</span>
        <Button small onClick={() => void onChange(undefined)}>
          Without it
        </Button>
      </div>
      <ConditionEditor table={table} name={name} value={value} onChange={onChange} />
    </div>
  );
}
