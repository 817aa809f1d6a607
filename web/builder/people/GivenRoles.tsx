import { useState } from 'react';
import { useBenchAction, type MemberSheet } from '../../client/builder';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { dayText } from '../../records/member-words';
import { ReasonDialog } from '../../ui/ReasonDialog';

/** Roles that somebody gave a member by hand, each with its reason. They hold at once, and not only in the draft. */
export function GivenRoles({ member }: { member: MemberSheet }) {
  const { slug, draft } = useBench();
  const names = useNames();
  const give = useBenchAction(slug, 'PUT /members/:member/roles/:role');
  const take = useBenchAction(slug, 'DELETE /members/:member/roles/:role');
  const free = draft.roles.filter(
    ({ id, for: whom }) => (whom ?? 'members') === 'members' && !member.roles.includes(id),
  );
  const [chosen, setChosen] = useState('');
  const role = free.some(({ id }) => id === chosen) ? chosen : (free[0]?.id ?? '');
  return (
    <section aria-label="Roles by hand" className="grid gap-2">
      <div className="flex items-center gap-3">
        <h2 className="flex-1 text-base">Roles given by hand</h2>
        {member.state !== 'gone' && !member.withoutRow && free.length > 0 && (
          <ReasonDialog
            trigger={<Button small>+ role</Button>}
            title={`Give ${member.name} a role`}
            says="It holds at their next click, for as long as they stand on a roster, until somebody takes it back."
            label="Why"
            go="Give the role"
            fault={give.isError ? problemText(give.error) : null}
            onGo={(reason, done) =>
              give.mutate({ params: { member: member.id, role }, body: { reason } }, { onSuccess: done })
            }
          >
            <Field label="Role">
              {(ids) => (
                <Select {...ids} value={role} onPick={setChosen}>
                  {free.map((each) => (
                    <option key={each.id} value={each.id}>
                      {each.name}
                    </option>
                  ))}
                </Select>
              )}
            </Field>
          </ReasonDialog>
        )}
      </div>
      {take.isError && <Notice kind="fault">{problemText(take.error)}</Notice>}
      {member.given.length === 0 && (
        <p className="text-soft">
          {member.withoutRow ? 'None: they go with a row of a roster.' : 'None: their rows give all they have.'}
        </p>
      )}
      <ul className="grid gap-2">
        {member.given.map((each) => (
          <li key={each.role} className="flex items-center gap-3 rounded-stone border border-line bg-paper px-3 py-2">
            <span className="flex-1">
              <strong>{names.role(each.role)}</strong>{' '}
              <span className="text-soft">
                by {each.by}, {dayText(each.at)}: {each.reason}
              </span>
            </span>
            <Button small onClick={() => take.mutate({ params: { member: member.id, role: each.role } })}>
              Take back<span className="sr-only"> {names.role(each.role)}</span>
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
