import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { counted } from '../../../core/text/counted';
import { bench } from '../../client/bench';
import { benchFiles, isOver, jobProblem, useJob, useStartJob } from '../../client/files';
import { problemText } from '../../client/http';
import { useInvitationCount, type InvitationOrder, type InvitationOutcome } from '../../client/people';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { Question } from '../../ui/Question';
import { useBench } from '../bench/bench-context';
import { JobProgress } from '../../jobs/JobProgress';

/** Writes to members by a press, after a question with the number; then says how far it is and what came of it. */
export function SendMails({
  order,
  word,
  small = false,
  children,
}: {
  order: InvitationOrder;
  /** What one of them is called. */
  word: string;
  small?: boolean;
  /** What stands before the press. */
  children?: ReactNode;
}) {
  const { slug, to, state } = useBench();
  const found = useInvitationCount(slug, order);
  const start = useStartJob((sent: InvitationOrder) => bench(slug)('POST /invitations', { body: sent }));
  const id = start.data?.id ?? null;
  const job = useJob(benchFiles(slug), id).data;
  const isBusy = start.isPending || (id !== null && !isOver(job));
  const outcome = job?.state === 'done' ? (job.result as InvitationOutcome) : null;
  const problem = start.error ?? jobProblem(job);
  const many = found.data?.queued ?? 0;
  const isOpen = state.publishedVersion !== null;
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        {children}
        <Question
          trigger={
            <Button small={small} weight="main" disabled={isBusy || many === 0 || !isOpen}>
              Send {counted(many, word)}
            </Button>
          }
          title={`Send ${counted(many, word)}?`}
          says={
            <p>
              {many === 1 ? 'One member is' : `${many.toLocaleString()} members are`} written to, each with a link of
              their own that works once. It can&apos;t be undone.
            </p>
          }
          keep="Send nothing"
          go={`Send ${counted(many, word)}`}
          first="go"
          onGo={() => start.mutate(order)}
        />
      </div>
      {id !== null && isBusy && <JobProgress ways={benchFiles(slug)} job={id} doing={`Writing ${word}s`} of="mail" />}
      {problem && <Notice kind="fault">{problemText(problem)}</Notice>}
      {outcome && (
        <Notice kind="say" action={<Link to={to('people', '~outbox')}>Outbox</Link>}>
          {counted(outcome.queued, word)} on the way. {skippedText(outcome)}
        </Notice>
      )}
    </>
  );
}

function skippedText({ skipped }: InvitationOutcome): string {
  const parts = Object.entries(skipped).map(([why, many]) => `${Number(many).toLocaleString()} ${why}`);
  return parts.length === 0 ? '' : `Not written to: ${parts.join(', ')}.`;
}
