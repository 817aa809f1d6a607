import { useState, type FormEvent } from 'react';
import { counted } from '../../../core/text/counted';
import { useMembers, useBenchAction, type FoundMember } from '../../client/builder';
import { useRefresh, type RefreshOutcome } from '../../client/refresh';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { rolesText } from '../bench/PersonChooser';
import { StageHead } from '../bench/StageFrame';
import { JobProgress } from '../data/JobProgress';
import { DataTable, Unseen } from '../../ui/DataTable';

/** What came of a refresh, in words. */
function refreshedText({ added, updated, suspended, left }: RefreshOutcome): string {
  const gives = `${counted(left, 'row')} ${left === 1 ? 'gives' : 'give'} no member`;
  return `${added} added, ${updated} updated, ${suspended} suspended; ${gives}. No mail was sent.`;
}

export function Members({ roster }: { roster: string | null }) {
  const { slug } = useBench();
  const [search, setSearch] = useState('');
  const [offset, setOffset] = useState(0);
  const members = useMembers(slug, search, roster, offset);
  const refresh = useRefresh(slug);
  return (
    <>
      {roster === null && (
        <StageHead title="Members">
          <Button small weight="main" disabled={refresh.isBusy} onClick={refresh.begin}>
            {refresh.isBusy ? 'Refreshing …' : 'Refresh from the rosters'}
          </Button>
        </StageHead>
      )}
      <div className="grid gap-3 p-4">
        {roster === null && refresh.job !== null && (
          <JobProgress slug={slug} job={refresh.job} doing="Refreshing the members" />
        )}
        {roster === null && refresh.outcome && <Notice kind="say">{refreshedText(refresh.outcome)}</Notice>}
        {roster === null && refresh.problem && <Notice kind="fault">{problemText(refresh.problem)}</Notice>}
        <input
          data-find
          type="search"
          className="field max-w-80"
          aria-label="Find a member"
          placeholder="Find by name or e-mail"
          value={search}
          onChange={(event) => {
            setSearch(event.target.value);
            setOffset(0);
          }}
        />
        {members.isPending && <Skeleton lines={6} />}
        {members.isError && <Notice kind="fault">{problemText(members.error)}</Notice>}
        {members.data?.total === 0 && (
          <Notice kind="say">
            {search ? 'Nobody is called so.' : 'There are no members yet. Set a roster and refresh.'}
          </Notice>
        )}
        {members.data && members.data.total > 0 && (
          <>
            <DataTable label="Members" head={['Name', 'E-mail', 'Roster', 'Roles', <Unseen key="do">Actions</Unseen>]}>
              {members.data.members.map((member) => (
                <MemberRow key={member.id} member={member} />
              ))}
            </DataTable>
            <div className="flex items-center gap-2 text-sm text-soft">
              {offset + 1} to {offset + members.data.members.length} of {members.data.total.toLocaleString()}
              <span className="ml-auto flex gap-2">
                <Button small disabled={offset === 0} onClick={() => setOffset(Math.max(0, offset - 50))}>
                  Back
                </Button>
                <Button small disabled={offset + 50 >= members.data.total} onClick={() => setOffset(offset + 50)}>
                  Further
                </Button>
              </span>
            </div>
          </>
        )}
      </div>
    </>
  );
}

function MemberRow({ member }: { member: FoundMember }) {
  const { slug, draft, setPerson } = useBench();
  const [asking, setAsking] = useState(false);
  const [password, setPassword] = useState('');
  const save = useBenchAction(slug, 'PUT /members/:member/password');
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate(
      { params: { member: member.id }, body: { password } },
      {
        onSuccess: () => {
          setAsking(false);
          setPassword('');
        },
      },
    );
  };
  return (
    <tr className="border-b border-line align-top">
      <td className="py-1.5 pr-3 font-semibold">
        {member.name}
        {!member.active && <span className="text-iron font-normal"> · suspended</span>}
      </td>
      <td className="py-1.5 pr-3 break-all">{member.email}</td>
      <td className="py-1.5 pr-3">{member.rosters.join(', ')}</td>
      <td className="py-1.5 pr-3">{rolesText(member, draft)}</td>
      <td className="py-1 text-right whitespace-nowrap">
        {!asking && (
          <>
            <Button small weight="quiet" onClick={() => setPerson({ id: member.id, name: member.name })}>
              See as<span className="sr-only"> {member.name}</span>
            </Button>
            <Button small weight="quiet" onClick={() => setAsking(true)}>
              {member.canSignIn ? 'New password' : 'Set a password'}
              <span className="sr-only"> for {member.name}</span>
            </Button>
          </>
        )}
        {asking && (
          <form onSubmit={submit} className="grid gap-1 text-left">
            <Field
              label={`Password for ${member.name}`}
              fault={save.isError ? problemText(save.error) : null}
              hint="10 characters at least"
            >
              {(ids) => (
                <input
                  className="field"
                  type="password"
                  autoComplete="new-password"
                  {...ids}
                  value={password}
                  onChange={(event) => setPassword(event.target.value)}
                />
              )}
            </Field>
            <span className="flex gap-1">
              <Button small type="submit" weight="main">
                Set
              </Button>
              <Button small onClick={() => setAsking(false)}>
                Cancel
              </Button>
            </span>
          </form>
        )}
      </td>
    </tr>
  );
}
