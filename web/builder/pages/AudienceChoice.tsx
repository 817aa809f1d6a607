import type { Audience, ForRoles } from '../../../core/definition/section-kinds';
import { rolesNamed } from '../../../core/access/public-pages';
import { useBench } from '../bench/bench-context';
import { AudienceWhere } from './AudienceWhere';

/** Who gets a part of a page, of those who get what it stands on; all of them where there is no audience. */
export function AudienceChoice({
  title,
  name,
  of,
  audience,
  onChange,
}: {
  title: string;
  /** What it is called to whoever can't see where it stands. */
  name: string;
  of: ForRoles;
  audience: Audience | undefined;
  onChange: (audience: Audience | undefined) => Promise<string | null>;
}) {
  const { draft } = useBench();
  const those = rolesNamed(of, draft);
  const roles = draft.roles.filter(({ id }) => those.includes(id));
  const gets = (id: string) => !audience || audience.roles === 'everyone' || audience.roles.includes(id);
  const change = (given: string[], where: Audience['where']) =>
    onChange(
      given.length === roles.length && !where
        ? undefined
        : { roles: given.length === roles.length ? 'everyone' : given, ...(where ? { where } : {}) },
    );
  const given = roles.map(({ id }) => id).filter(gets);
  return (
    <fieldset className="grid gap-1">
      <legend className="text-sm font-semibold">{title}</legend>
      {roles.length > 1 && (
        <div className="flex flex-wrap gap-x-4">
          {roles.map(({ id, name: called }) => (
            <label key={id} className="inline-flex min-h-7 items-center gap-2 text-sm">
              <input
                type="checkbox"
                checked={gets(id)}
                onChange={(event) => {
                  const isGiven = event.target.checked;
                  const next = roles.map((role) => role.id).filter((each) => (each === id ? isGiven : gets(each)));
                  void change(next, audience?.where);
                }}
              />{' '}
              {called}
            </label>
          ))}
        </div>
      )}
      {roles.length <= 1 && <p className="text-sm">Everybody who gets what it stands on.</p>}
      <AudienceWhere name={name} where={audience?.where} onChange={(where) => change(given, where)} />
    </fieldset>
  );
}
