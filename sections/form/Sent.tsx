import { lazy, Suspense, useEffect, useRef } from 'react';
import { Button } from '../../web/ui/Button';
import { Skeleton } from '../../web/ui/Notice';

const Markdown = lazy(() => import('../text/Markdown'));

/** What is said once a form was sent, and what can be done then. */
export function Sent({
  says,
  onCorrect,
  onAgain,
}: {
  says: string | null;
  /** Null where what was sent can't be corrected. */
  onCorrect: (() => void) | null;
  /** Null where it was opened with a record. */
  onAgain: (() => void) | null;
}) {
  const words = useRef<HTMLDivElement>(null);
  useEffect(() => words.current?.focus(), []);
  return (
    <div className="grid max-w-3xl gap-4">
      <div ref={words} tabIndex={-1} role="status" className="rounded-stone border border-line bg-lichen-wash p-4">
        {says === null ? (
          <p>It was sent. Thank you.</p>
        ) : (
          <Suspense fallback={<Skeleton lines={2} />}>
            <Markdown text={says} titled />
          </Suspense>
        )}
      </div>
      <div className="flex flex-wrap gap-2">
        {onCorrect && <Button onClick={onCorrect}>Correct what I sent</Button>}
        {onAgain && <Button onClick={onAgain}>Fill in another</Button>}
      </div>
      {onCorrect && (
        <p className="text-sm text-soft">
          You can correct it until you leave this page, for half an hour at most, and as long as nobody has taken it up.
        </p>
      )}
    </div>
  );
}
