import { lazy, Suspense, useRef, useState, type ReactNode } from 'react';
import { ownJobs } from '../client/files';
import { problemText } from '../client/http';
import { pressId, useAct, useUndoAct, type ActedOn, type ActionTold } from '../client/actions';
import { useDone } from '../place/done';
import { pageSpot, usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { actedWords, undoneWords } from './acted-words';

const ActionDialog = lazy(() => import('./ActionDialog'));
const JobProgress = lazy(() => import('../jobs/JobProgress').then((files) => ({ default: files.JobProgress })));

/** The buttons of actions, each with what it is done with. */
export function ActionButtons({
  actions,
  on,
  called,
  dirty = false,
  small = false,
  onDone,
}: {
  actions: readonly ActionTold[];
  on: ActedOn;
  /** What it is done with, in words. */
  called: string;
  /** Nothing is done while something typed is not saved. */
  dirty?: boolean;
  small?: boolean;
  /** Told the ids of those with which it could not be done. */
  onDone?: (refused: string[]) => void;
}) {
  return actions.map((action) => (
    <ActionButton key={action.id} {...{ action, on, called, dirty, small }} {...(onDone ? { onDone } : {})} />
  ));
}

/** One of them; with `children` it looks as it is given, and not as a button among others. */
export function ActionButton({
  action,
  on,
  called,
  dirty = false,
  small = false,
  onDone,
  className,
  children,
}: {
  action: ActionTold;
  on: ActedOn;
  /** Null where it need not be said what it is done with. */
  called: string | null;
  dirty?: boolean;
  small?: boolean;
  onDone?: (refused: string[]) => void;
  className?: string;
  children?: ReactNode;
}) {
  const { base, seenBy, go } = usePlace();
  const say = useDone();
  const [press, setPress] = useState<string | null>(null);
  const begun = useRef(false);
  const [job, setJob] = useState<number | null>(null);
  const act = useAct(base, action, seenBy, (id) => {
    setJob(id);
    if (id !== null) begun.current = true;
    // What was asked is looked at before it begins.
    if (id !== null) setPress(null);
  });
  const undo = useUndoAct(base, action);
  const asks = action.asks.length > 0 || action.confirm !== null;
  const send = async (asked: Record<string, unknown>, id: string) => {
    begun.current = false;
    const done = await act.mutateAsync({ on, asked, press: id }).catch((error: unknown) => {
      // A job has no dialog any more in which it could be said.
      if (!begun.current) throw error;
      say({ words: problemText(error), fault: true });
      return null;
    });
    if (!done) return;
    // Where it only leads on there is nothing to say of it.
    if (action.goWith === null || action.says !== null) {
      const takeBack = async () => say(undoneWords(action, await undo.mutateAsync({ on, press: id })));
      say({ ...actedWords(action, done, seenBy), ...(done.undoable ? { undo: takeBack } : {}) });
    }
    if ('refused' in done) onDone?.(done.refused);
    else if ('outcomes' in done) onDone?.(done.outcomes.flatMap((each) => (each.done ? [] : [each.id])));
    else if (action.go !== null && action.goWith !== null && 'record' in on)
      go({ ...pageSpot(action.go), record: { section: action.goWith, id: on.record.id } });
    else if (action.go !== null && !seenBy) go(pageSpot(action.go));
  };
  const begin = () => {
    const id = pressId();
    if (asks) setPress(id);
    else void send({}, id).catch((error: unknown) => say({ words: problemText(error), fault: true }));
  };
  return (
    <>
      {children ? (
        <button type="button" className={className} disabled={dirty || act.isPending} onClick={begin}>
          {children}
        </button>
      ) : (
        <Button small={small} disabled={dirty || act.isPending} onClick={begin}>
          {action.name}
          {asks && ' …'}
          {small && 'record' in on && <span className="sr-only">: {called}</span>}
        </Button>
      )}
      {job !== null && (
        <Suspense>
          <JobProgress ways={ownJobs(base)} job={job} doing={action.name} of="record" />
        </Suspense>
      )}
      {press !== null && (
        <Suspense>
          <ActionDialog
            action={action}
            on={on}
            called={called}
            onSend={(asked) => send(asked, press)}
            onClose={() => setPress(null)}
          />
        </Suspense>
      )}
    </>
  );
}
