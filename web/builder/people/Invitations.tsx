import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { useMailServer, type InvitationOrder } from '../../client/people';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';
import { MailsSay } from './MailsSay';
import { SendMails } from './SendMails';
import { TakeLinks } from './TakeLinks';

/** Who is written to, and in which words. Nothing is sent but by a press here. */
export function Invitations() {
  const { slug, state, to } = useBench();
  const server = useMailServer(slug);
  const [days, setDays] = useState(7);
  const isPublished = state.publishedVersion !== null;
  return (
    <>
      <StageHead title="Invitations" />
      <div className="grid max-w-200 gap-4 p-4">
        <p className="text-soft">
          Nobody is written to until you press here: a refresh, an import or a publish sends nothing. What was sent
          can&apos;t be taken back.
        </p>
        {!isPublished && (
          <Notice kind="warn" action={<Link to={to('publish')}>Publish</Link>}>
            An invitation leads to the published portal, and nothing is published yet.
          </Notice>
        )}
        {server.data?.server === null && (
          <Notice kind="warn" action={<Link to={to('people', '~outbox')}>Set it</Link>}>
            No mail server is set yet.
          </Notice>
        )}
        <Sending
          title="Invite everybody not yet invited"
          order={{ kind: 'invitation', afterDays: 0, again: false }}
          word="invitation"
        />
        <Sending
          title={
            <label className="flex flex-wrap items-center gap-2">
              Remind those who have not been in, and were not written to for
              <input
                className="field w-20"
                type="number"
                min={0}
                max={365}
                value={days}
                onChange={(event) => setDays(Math.min(365, Math.max(0, Math.trunc(Number(event.target.value)) || 0)))}
              />
              days
            </label>
          }
          order={{ kind: 'reminder', afterDays: days, again: false }}
          word="reminder"
        />
        <MailsSay kinds={['invitation', 'reminder']} />
      </div>
    </>
  );
}

/** One of the ways to say who is written to. */
function Sending({ title, order, word }: { title: ReactNode; order: InvitationOrder; word: string }) {
  return (
    <section aria-label={`Send ${word}s`} className="grid gap-2 rounded-stone border border-line bg-paper p-3">
      <SendMails order={order} word={word}>
        <div className="min-w-60 flex-1">{title}</div>
      </SendMails>
      <TakeLinks order={order} />
    </section>
  );
}
