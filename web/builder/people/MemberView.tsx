import { useState, type FormEvent, type ReactNode } from 'react';
import { Link } from 'react-router';
import { describeCondition } from '../../../core/condition/describe';
import type { Roster } from '../../../core/definition/definition';
import { shortestPassword } from '../../../core/sign-in/password-rules';
import { counted } from '../../../core/text/counted';
import { useBenchAction, useMember, type MemberSheet, type SheetRow } from '../../client/builder';
import { problemText } from '../../client/http';
import { useOutbox } from '../../client/people';
import { Button, buttonLook } from '../../ui/Button';
import { DataTable } from '../../ui/DataTable';
import { Notice, Skeleton } from '../../ui/Notice';
import { PasswordField } from '../../ui/PasswordField';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';
import { useNames, useNaming } from '../bench/names';
import { StageHead } from '../bench/StageFrame';
import { GivenRoles } from './GivenRoles';
import { dayText, minuteText, stateWords } from '../../records/member-words';
import { ReasonDialog } from '../../ui/ReasonDialog';
import { SendMails } from './SendMails';

/** One member: state, rows, roles and through which rule, sessions, and what can be done for them. */
export function MemberView({ id }: { id: number }) {
  const { slug, to } = useBench();
  const member = useMember(slug, id);
  return (
    <>
      <StageHead
        title={
          <>
            <Link to={to('people', 'members')} className="mr-2 text-base font-normal">
              Members
            </Link>
            {member.data?.name ?? ''}
          </>
        }
      >
        {member.data && <Actions member={member.data} />}
      </StageHead>
      <div className="grid max-w-200 gap-5 p-4">
        {member.isPending && <Skeleton />}
        {member.isError && <Notice kind="fault">{problemText(member.error)}</Notice>}
        {member.data && <Sheet member={member.data} />}
      </div>
    </>
  );
}

function suspendSays({ sessions }: MemberSheet): string {
  const ends = sessions.length === 1 ? 'ends' : 'end';
  const who = sessions.length === 0 ? 'They' : `Their ${counted(sessions.length, 'session')} ${ends} at once, and they`;
  return `${who} can't come in until somebody lets them in again. It holds at once, whatever the draft says.`;
}

function Actions({ member }: { member: MemberSheet }) {
  const { slug, to, setPerson } = useBench();
  const suspend = useBenchAction(slug, 'PUT /members/:member/suspension');
  const letIn = useBenchAction(slug, 'DELETE /members/:member/suspension');
  const params = { member: member.id };
  if (member.state === 'gone') return null;
  return (
    <>
      <Link to={to('access', '~who')} className="text-sm">
        Who sees what
      </Link>
      <a className={buttonLook('plain', true)} href={`/api/builder/portals/${slug}/members/${member.id}/file`} download>
        Their file
      </a>
      <Button small onClick={() => setPerson({ id: member.id, name: member.name })}>
        See as {member.name}
      </Button>
      {member.suspended ? (
        <Button small weight="main" disabled={letIn.isPending} onClick={() => letIn.mutate({ params })}>
          Let in again
        </Button>
      ) : (
        <ReasonDialog
          trigger={
            <Button small weight="danger">
              Suspend
            </Button>
          }
          title={`Suspend ${member.name}?`}
          says={suspendSays(member)}
          label="Why"
          go="Suspend"
          fault={suspend.isError ? problemText(suspend.error) : null}
          onGo={(reason, done) => suspend.mutate({ params, body: { reason } }, { onSuccess: done })}
        />
      )}
    </>
  );
}

function Sheet({ member }: { member: MemberSheet }) {
  const { slug } = useBench();
  const endAll = useBenchAction(slug, 'DELETE /members/:member/sessions');
  return (
    <>
      {member.suspended && (
        <Notice kind="warn">
          Suspended by {member.suspended.by} since {minuteText(member.suspended.since)}: {member.suspended.why}
        </Notice>
      )}
      <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-1">
        <Fact label="E-mail">{member.email}</Fact>
        <Fact label="State">
          {stateWords[member.state].label}: {stateWords[member.state].means}
        </Fact>
        {member.organisation !== null && <Fact label="Organisation">{member.organisation}</Fact>}
        <Fact label="Known since">{dayText(member.knownSince)}</Fact>
        {member.goneSince !== null && <Fact label="Gone since">{dayText(member.goneSince)}</Fact>}
        <Fact label="Invited">{dayText(member.invitedAt)}</Fact>
        <Fact label="Last in">{minuteText(member.lastIn)}</Fact>
      </dl>
      {(member.state === 'known' || member.state === 'invited') && (
        <SendMails
          small
          order={{ kind: 'invitation', members: [member.id], afterDays: 0, again: true }}
          word="invitation"
        >
          <span className="flex-1">They have not been in yet.</span>
        </SendMails>
      )}
      <Rows member={member} />
      <GivenRoles member={member} />
      <section className="grid gap-2">
        <div className="flex items-center gap-3">
          <h2 className="flex-1 text-base">Sessions</h2>
          {member.sessions.length > 0 && (
            <Question
              trigger={<Button small>End all</Button>}
              title={`End ${counted(member.sessions.length, 'session')} of ${member.name}?`}
              says="They can sign in again. What they typed and did not save is kept in their browser until they do."
              keep="Leave them"
              go={`End ${counted(member.sessions.length, 'session')}`}
              onGo={() => endAll.mutate({ params: { member: member.id } })}
            />
          )}
        </div>
        {member.sessions.length === 0 && <p className="text-soft">Not signed in anywhere.</p>}
        {member.sessions.length > 0 && (
          <DataTable small label="Sessions" head={['Browser', 'Since', 'Last used']}>
            {member.sessions.map((session) => (
              <tr key={session.id}>
                <td className="break-all">{session.device ?? 'not said'}</td>
                <td className="whitespace-nowrap">{minuteText(session.beganAt)}</td>
                <td className="whitespace-nowrap">{minuteText(session.lastUsed)}</td>
              </tr>
            ))}
          </DataTable>
        )}
      </section>
      <Password member={member} />
      <SecondFactor member={member} />
      <Mails member={member} />
    </>
  );
}

function Fact({ label, children }: { label: string; children: ReactNode }) {
  return (
    <>
      <dt className="text-soft">{label}</dt>
      <dd className="m-0 break-words">{children}</dd>
    </>
  );
}

const faults: Record<NonNullable<SheetRow['fault']>, string> = {
  gone: 'is not there any more',
  'another e-mail': 'carries another e-mail',
  'does not count': "does not count: the roster's condition doesn't hold",
};

/** The rows that make them a member, each with the rules by which it gives its roles. */
function Rows({ member }: { member: MemberSheet }) {
  const { draft, to } = useBench();
  const names = useNames();
  return (
    <section aria-label="Rows" className="grid gap-2">
      <h2 className="text-base">Rows and roles</h2>
      {member.withoutRow && (
        <p>
          They came in by a domain that the portal is open to and stand on no roster:{' '}
          {member.roles.length > 0 ? member.roles.map(names.role).join(', ') : 'it gives no role any more'}.
        </p>
      )}
      {member.rows.length === 0 && !member.withoutRow && (
        <p className="text-soft">No row of any roster is known to be theirs.</p>
      )}
      <ul className="grid gap-2">
        {member.rows.map((row) => {
          const roster = draft.rosters.find(({ table }) => table === row.roster);
          return (
            <li key={row.roster} className="rounded-stone border border-line bg-paper px-3 py-2">
              <Link className="underline" to={to('people', row.roster)}>
                {names.table(row.roster)}
              </Link>
              :{' '}
              <Link className="underline" to={to('data', row.roster, { show: 'rows', open: row.key })}>
                their row{' '}
              </Link>
              {row.fault && <span className="text-iron"> {faults[row.fault]}</span>}
              {!row.fault && row.roles.length === 0 && <span className="text-soft"> gives no role</span>}
              {roster && row.roles.map((role) => <RoleLine key={role} role={role} roster={roster} />)}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function RoleLine({ role, roster }: { role: string; roster: Roster }) {
  const names = useNames();
  const naming = useNaming();
  const rule = roster.role === role ? undefined : roster.roles?.find((each) => each.role === role);
  return (
    <div>
      <strong>{names.role(role)}</strong>{' '}
      <span className="text-soft">
        {rule ? `because ${describeCondition(rule.where, naming(roster.table))}` : 'as everyone on it'}
      </span>
    </div>
  );
}

/** For who lost the device that shows their codes. */
function SecondFactor({ member }: { member: MemberSheet }) {
  const { slug } = useBench();
  const forget = useBenchAction(slug, 'DELETE /members/:member/second-factor');
  if (!member.hasSecondFactor) return null;
  return (
    <section aria-label="Second factor" className="grid gap-2">
      <h2 className="text-base">Second factor</h2>
      <p className="flex flex-wrap items-center gap-3">
        They have one.
        <Question
          trigger={<Button small>Forget it</Button>}
          title={`Forget the second factor of ${member.name}?`}
          says="For somebody who lost it, and whom you know. Where a role asks for one they set up a new one."
          keep="Leave it"
          go="Forget it"
          onGo={() => forget.mutate({ params: { member: member.id } })}
        />
      </p>
    </section>
  );
}

/** What was sent to them. */
function Mails({ member }: { member: MemberSheet }) {
  const { slug, to } = useBench();
  const mails = useOutbox(slug, { state: null, search: '', member: member.id, before: null });
  if (!mails.data) return null;
  return (
    <section className="grid gap-2">
      <h2 className="text-base">Mails</h2>
      {mails.data.mails.length === 0 && <p className="text-soft">Nothing was sent to them.</p>}
      {mails.data.mails.length > 0 && (
        <DataTable small label="Mails" head={['Mail', 'State', 'When']}>
          {mails.data.mails.map((mail) => (
            <tr key={mail.id}>
              <td>
                <Link to={to('people', '~outbox', { mail: String(mail.id) })}>{mail.subject}</Link>
              </td>
              <td>
                {mail.state}
                {mail.state !== 'sent' && mail.answer && <div className="text-iron">{mail.answer}</div>}
              </td>
              <td className="whitespace-nowrap">{minuteText(mail.sentAt ?? mail.madeAt)}</td>
            </tr>
          ))}
        </DataTable>
      )}
    </section>
  );
}

function Password({ member }: { member: MemberSheet }) {
  const { slug } = useBench();
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
    <section aria-label="Password" className="grid gap-2">
      <h2 className="text-base">Password</h2>
      {!asking && (
        <p className="flex flex-wrap items-center gap-3">
          {member.canSignIn ? 'They have one.' : 'They have none.'}
          <Button small onClick={() => setAsking(true)}>
            {member.canSignIn ? 'New password' : 'Set a password'}
            <span className="sr-only"> for {member.name}</span>
          </Button>
        </p>
      )}
      {asking && (
        <form onSubmit={submit} className="grid max-w-100 gap-1">
          <PasswordField
            label={`Password for ${member.name}`}
            isNew
            fault={save.isError ? problemText(save.error) : null}
            hint={`${shortestPassword.alone} characters at least`}
            value={password}
            onValue={setPassword}
          />
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
    </section>
  );
}
