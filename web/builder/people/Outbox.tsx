import { Link } from 'react-router';
import { useBenchAction } from '../../client/builder';
import { problemText } from '../../client/http';
import { useOutbox, useOutboxMail, type OutboxEntry } from '../../client/people';
import { Button } from '../../ui/Button';
import { DataTable } from '../../ui/DataTable';
import { Notice, Skeleton } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useAddress } from '../bench/address';
import { useBench } from '../bench/bench-context';
import { NewestOlder } from '../bench/NewestOlder';
import { StageHead } from '../bench/StageFrame';
import { MailServerSettings } from './MailServerSettings';
import { MailShown } from './MailShown';
import { minuteText } from '../../records/member-words';

const stateWords: Record<OutboxEntry['state'], string> = {
  held: 'Being kept',
  waiting: 'Waiting',
  sending: 'Being sent',
  sent: 'Sent',
  'given up': 'Given up',
  unsure: 'Unsure',
  cancelled: 'Cancelled',
};
const states = Object.keys(stateWords) as OutboxEntry['state'][];

/** Every mail with what became of it, and the server that they go through. */
export function Outbox() {
  const [params] = useAddress();
  const mail = Number(params.get('mail')) || null;
  return (
    <>
      <StageHead title="Outbox" />
      <div className="grid gap-4 p-4">
        <MailServerSettings />
        {mail === null ? <MailList /> : <OneMail key={mail} id={mail} />}
      </div>
    </>
  );
}

function MailList() {
  const { slug, to } = useBench();
  const [params, change] = useAddress();
  const state = states.find((each) => each === params.get('state')) ?? null;
  const search = params.get('find') ?? '';
  const before = Number(params.get('before')) || null;
  const mails = useOutbox(slug, { state, search, member: null, before });
  const set = (name: string, value: string) =>
    change((next) => {
      next.delete('before');
      if (value) next.set(name, value);
      else next.delete(name);
    });
  return (
    <>
      <div className="flex flex-wrap gap-2">
        <input
          data-find
          type="search"
          className="field min-w-40 max-w-80 flex-1"
          aria-label="Find a mail"
          placeholder="Find by address or subject"
          value={search}
          onChange={(event) => set('find', event.target.value)}
        />
        <Select className="w-44" aria-label="State" value={state ?? ''} onPick={(picked) => set('state', picked)}>
          <option value="">every state</option>
          {states.map((each) => (
            <option key={each} value={each}>
              {stateWords[each]}
              {mails.data?.counts[each] ? ` (${Number(mails.data.counts[each]).toLocaleString()})` : ''}
            </option>
          ))}
        </Select>
      </div>
      {mails.isPending && <Skeleton />}
      {mails.isError && <Notice kind="fault">{problemText(mails.error)}</Notice>}
      {mails.data?.mails.length === 0 && (
        <Notice kind="say">
          {search || state ? 'No mail is like that.' : 'Nothing was sent yet. Mails go out from Invitations.'}
        </Notice>
      )}
      {mails.data && mails.data.mails.length > 0 && (
        <DataTable label="Mails" head={['To', 'Mail', 'State', 'When']}>
          {mails.data.mails.map((mail) => (
            <tr key={mail.id} className="border-b border-line align-top">
              <td className="py-1.5 pr-3">
                {mail.name ?? 'you'}
                <div className="text-sm break-all text-soft">{mail.recipient}</div>
              </td>
              <td className="py-1.5 pr-3">
                <Link to={to('people', '~outbox', { mail: String(mail.id) })}>{mail.subject}</Link>
                <div className="text-sm text-soft">{mail.kind}</div>
              </td>
              <td className="py-1.5 pr-3">
                {stateWords[mail.state]}
                {mail.state !== 'sent' && mail.answer && <div className="text-sm text-iron">{mail.answer}</div>}
              </td>
              <td className="py-1.5 pr-3 whitespace-nowrap">{minuteText(mail.sentAt ?? mail.madeAt)}</td>
            </tr>
          ))}
        </DataTable>
      )}
      <NewestOlder before={before} older={mails.data?.before} change={change} />
    </>
  );
}

function OneMail({ id }: { id: number }) {
  const { slug, to } = useBench();
  const mail = useOutboxMail(slug, id);
  const again = useBenchAction(slug, 'POST /outbox/:mail/again');
  if (mail.isPending) return <Skeleton />;
  if (mail.isError) return <Notice kind="fault">{problemText(mail.error)}</Notice>;
  const { data } = mail;
  return (
    <section aria-label="Mail" className="grid max-w-200 gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <Link to={to('people', '~outbox')} className="flex-1">
          All mails
        </Link>
        {(data.state === 'given up' || data.state === 'unsure') && (
          <Button small disabled={again.isPending} onClick={() => again.mutate({ params: { mail: id } })}>
            Send it again
          </Button>
        )}
      </div>
      {again.isError && <Notice kind="fault">{problemText(again.error)}</Notice>}
      <p>
        To{' '}
        {data.memberId === null ? (
          data.recipient
        ) : (
          <Link className="underline" to={to('people', `~member-${data.memberId}`)}>
            {data.name ?? data.recipient}
          </Link>
        )}{' '}
        <span className="text-soft">&lt;{data.recipient}&gt;</span>. {stateText(data)}
      </p>
      {data.answer && (
        <p className="text-soft">
          The mail server said: <q>{data.answer}</q>
        </p>
      )}
      {!data.isOpen && <p className="text-soft">What lets somebody in, a code or a link, is blotted out.</p>}
      <MailShown subject={data.subject} html={data.html} />
    </section>
  );
}

function stateText({ state, tries, sentAt, nextTry, madeAt }: OutboxEntry): string {
  if (state === 'sent') return `Sent ${minuteText(sentAt)}.`;
  if (state === 'waiting' && tries > 0)
    return `Tried ${tries === 1 ? 'once' : `${tries} times`}; next at ${minuteText(nextTry)}.`;
  return `${stateWords[state]}, since ${minuteText(madeAt)}.`;
}
