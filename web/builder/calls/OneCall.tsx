import { Link } from 'react-router';
import { counted } from '../../../core/text/counted';
import { useBenchAction } from '../../client/builder';
import { problemText } from '../../client/http';
import { useCall } from '../../client/calls';
import { minuteText } from '../../records/member-words';
import { Button } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { callStateWords } from './call-words';

/** One call: what it told, and what it was answered. */
export function OneCall({ id }: { id: number }) {
  const { slug, to } = useBench();
  const call = useCall(slug, id);
  const again = useBenchAction(slug, 'POST /calls/:call/again');
  if (call.isPending) return <Skeleton />;
  if (call.isError) return <Notice kind="fault">{problemText(call.error)}</Notice>;
  const { state, tries, madeAt, doneAt, nextTry, problem, body, answer, onceKey, status } = call.data;
  return (
    <section aria-label="Call" className="grid max-w-200 gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <Link to={to('pages', '!calls')} className="flex-1">
          All calls
        </Link>
        {(state === 'given up' || state === 'unsure') && (
          <Button small disabled={again.isPending} onClick={() => again.mutate({ params: { call: id } })}>
            Make it again
          </Button>
        )}
      </div>
      {again.isError && <Notice kind="fault">{problemText(again.error)}</Notice>}
      <p>
        {callStateWords[state]}, {counted(tries, 'try', 'tries')}, from {minuteText(madeAt)}
        {doneAt && ` to ${minuteText(doneAt)}`}
        {nextTry && `; next at ${minuteText(nextTry)}`}. Its id is <code className="break-all">{onceKey}</code>.
      </p>
      {problem && <Notice kind="fault">{problem}</Notice>}
      {body === null ? (
        <p className="text-soft">What was told is personal data, which you are kept from.</p>
      ) : (
        <>
          <Told title="It told" text={body} />
          {status !== null && <Told title={`It was answered ${status}`} text={answer ?? ''} />}
        </>
      )}
    </section>
  );
}

function Told({ title, text }: { title: string; text: string }) {
  return (
    <div className="grid gap-1">
      <h2 className="text-base font-semibold">{title}</h2>
      <pre className="overflow-x-auto rounded-stone border border-line bg-sunk p-2 text-sm whitespace-pre-wrap">
        {pretty(text)}
      </pre>
    </div>
  );
}

function pretty(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text === '' ? 'nothing' : text;
  }
}
