import { counted } from '../../../core/text/counted';
import { Popover } from '../../ui/Popover';
import type { Role } from '../../../core/definition/definition';
import { Button } from '../../ui/Button';

/** Which roles stand in the grid; two of them side by side are a comparison. */
export function RolesShown({
  roles,
  shown,
  onChange,
}: {
  roles: Role[];
  shown: string[];
  onChange: (ids: string[]) => void;
}) {
  return (
    <Popover
      align="end"
      label="Roles in the grid"
      className="grid w-64 gap-2"
      trigger={
        <Button small>
          {shown.length === roles.length
            ? `all ${counted(roles.length, 'role')}`
            : `${shown.length} of ${counted(roles.length, 'role')}`}
        </Button>
      }
    >
      <p className="text-sm text-soft">Two alone, with “where these roles differ”, compare them.</p>
      <div className="grid max-h-80 gap-0.5 overflow-y-auto">
        {roles.map((role) => (
          <label key={role.id} className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={shown.includes(role.id)}
              onChange={(event) => {
                const next = roles
                  .map((each) => each.id)
                  .filter((id) => (id === role.id ? event.target.checked : shown.includes(id)));
                if (next.length > 0) onChange(next);
              }}
            />{' '}
            {role.name}
          </label>
        ))}
      </div>
      <Button small onClick={() => onChange(roles.map((role) => role.id))}>
        All roles
      </Button>
    </Popover>
  );
}
