import { Users, X } from 'lucide-react';
import { problemText, ServerProblem } from '../client/http';
import { useComments, useSaying, type CommentTold } from '../client/comments';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';
import { Question } from '../ui/Question';
import { Unanswered } from './Answered';
import { minuteText } from './member-words';
import { Doubt } from './Doubt';
import { SayComment } from './SayComment';
import { writer } from './writer';

/** What is said of a record, from the oldest to the newest, and a place to say more. */
export default function Comments({ table, id, under }: { table: string; id: string; under: 'h1' | 'h2' }) {
  const Heading = under === 'h1' ? 'h2' : 'h3';
  const { base } = usePlace();
  const answer = useComments(base, table, id);
  const pages = answer.data?.pages ?? [];
  const comments = pages.toReversed().flatMap((page) => page.comments);
  const earlier = pages.at(-1)?.earlier ?? 0;
  const [newest] = pages;
  // By the role through which they have this record nothing said of it is theirs to read.
  if (answer.error instanceof ServerProblem && answer.error.status === 404) return null;
  return (
    <section aria-label="Comments" className="grid gap-3 border-t border-line pt-3">
      <Heading className="text-base">
        Comments
        {newest && <span className="ml-2 font-normal text-soft">{(comments.length + earlier).toLocaleString()}</span>}
      </Heading>
      <Unanswered answer={answer} />
      {answer.isPending && <Skeleton lines={3} />}
      {earlier > 0 && (
        <Button
          small
          className="justify-self-start"
          disabled={answer.isFetchingNextPage}
          onClick={() => void answer.fetchNextPage()}
        >
          Show earlier ones, {earlier.toLocaleString()} more
        </Button>
      )}
      {newest && comments.length === 0 && <p className="text-soft">Nothing was said yet.</p>}
      {comments.length > 0 && (
        <ol className="grid gap-2">
          {comments.map((comment) => (
            <li key={comment.id}>
              <Said table={table} id={id} comment={comment} />
            </li>
          ))}
        </ol>
      )}
      {newest && newest.writes.length > 0 && <SayComment key={id} table={table} id={id} writes={newest.writes} />}
    </section>
  );
}

function Said({ table, id, comment }: { table: string; id: string; comment: CommentTold }) {
  const { base, seenBy } = usePlace();
  const { takeOut } = useSaying(base, table, id);
  const { circle, text, role, name, mine } = comment;
  const inner = circle === 'amongUs';
  const look = inner
    ? 'border-dashed border-line-strong bg-paper'
    : `border-transparent ${mine ? 'bg-lichen-wash' : 'bg-sunk'}`;
  return (
    <article className={`grid gap-1 rounded-stone border px-3 py-2 ${look}`}>
      <div className="flex items-start gap-2">
        <p className="flex min-w-0 flex-1 flex-wrap items-center gap-x-2 text-sm">
          <span className="font-semibold">
            <bdi>{writer(comment)}</bdi>
          </span>
          {name !== null && !mine && role !== null && <span className="text-soft">{role}</span>}
          <time dateTime={comment.writtenAt} className="text-soft">
            {minuteText(comment.writtenAt)}
          </time>
          {inner && (
            <span className="inline-flex items-center gap-1 font-semibold">
              <Users size={13} aria-hidden /> Among us
            </span>
          )}
        </p>
        {comment.deletable && (
          <Question
            title="Take this comment out?"
            says={<p>It is gone for everyone who reads here.</p>}
            keep="Keep it"
            go="Take it out"
            onGo={() => takeOut.mutate(comment.id)}
            trigger={
              <Button
                small
                weight="quiet"
                className="no-print -mr-2"
                disabled={seenBy}
                aria-label={`Take out the comment of ${minuteText(comment.writtenAt)}`}
              >
                <X size={14} aria-hidden />
              </Button>
            }
          />
        )}
      </div>
      {comment.wrong && <Doubt table={table} id={id} wrong={comment.wrong} />}
      {text === null ? (
        <p className="text-soft">Kept from you: it may hold personal data.</p>
      ) : text === '' ? null : (
        <p dir="auto" className="whitespace-pre-wrap break-words">
          {text}
        </p>
      )}
      {takeOut.isError && <Notice kind="fault">{problemText(takeOut.error)}</Notice>}
    </article>
  );
}
