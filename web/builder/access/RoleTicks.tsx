import type { ForRoles } from '../../../core/definition/section-kinds';
import type { Role } from '../../../core/definition/definition';
import { useBench } from '../bench/bench-context';
import { Select } from '../../ui/Select';

/** Changes a list as it is when the edit is made: ticks that follow each other quickly must not undo one another. */
export type ListChange = (old: readonly string[]) => string[];

/** The list with one name put in or taken out, in the order of all. */
export function ticking(all: readonly string[], name: string, given: boolean): ListChange {
  return (old) => all.filter((each) => (each === name ? given : old.includes(each)));
}

/** Roles to tick: all, or those that `fits` says. */
export function RoleTicks({
  legend,
  ticked,
  onChange,
  fits = () => true,
}: {
  legend: string;
  ticked: string[];
  fits?: (role: Role) => boolean;
  onChange: (change: ListChange) => void;
}) {
  const { draft } = useBench();
  return (
    <fieldset>
      <legend className="text-sm font-semibold">{legend}</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {draft.roles.filter(fits).map((role) => (
          <label key={role.id} className="inline-flex min-h-7 items-center gap-1.5">
            <input
              type="checkbox"
              checked={ticked.includes(role.id)}
              onChange={(event) =>
                onChange(
                  ticking(
                    draft.roles.map((each) => each.id),
                    role.id,
                    event.target.checked,
                  ),
                )
              }
            />{' '}
            {role.name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

/** Everyone, or roles to tick; at least one. */
export function ForWhom({
  legend,
  value,
  onChange,
}: {
  legend: string;
  value: ForRoles;
  onChange: (change: (old: ForRoles) => ForRoles) => void;
}) {
  const { draft } = useBench();
  return (
    <div className="grid gap-1">
      <label className="flex items-center gap-2 text-sm font-semibold">
        {legend}
        <Select
          className="w-auto font-normal"
          value={value === 'everyone' ? 'everyone' : 'some'}
          onPick={(picked) => {
            const all = picked === 'everyone';
            onChange(() => (all ? 'everyone' : draft.roles.slice(0, 1).map((role) => role.id)));
          }}
        >
          <option value="everyone">everyone</option>
          <option value="some" disabled={draft.roles.length === 0}>
            these roles
          </option>
        </Select>
      </label>
      {value !== 'everyone' && (
        <RoleTicks
          legend={`${legend} these roles`}
          ticked={value}
          onChange={(change) =>
            onChange((old) => {
              const next = change(old === 'everyone' ? [] : old);
              return next.length > 0 ? next : old;
            })
          }
        />
      )}
    </div>
  );
}
