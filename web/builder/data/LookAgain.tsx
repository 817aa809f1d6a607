import { problemText } from '../../client/http';
import { useLookAgain, useSeenIt, type SourceChange } from '../../client/sources';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { StageHead } from '../bench/StageFrame';
import { useBench } from '../bench/bench-context';

const words: Record<SourceChange['what'], (change: SourceChange) => string> = {
  'table added': (change) => `${change.table} is new`,
  'table gone': (change) => `${change.table} is gone`,
  'column added': (change) => `${change.table}.${change.column} is new, ${change.is}`,
  'column gone': (change) => `${change.table}.${change.column} is gone`,
  'column changed': (change) => `${change.table}.${change.column} was ${change.was} and is ${change.is}`,
  'key changed': (change) => `the key of ${change.table} was ${change.was} and is ${change.is}`,
};

/** What has changed in the database since somebody looked last, and what of the portals it touches. */
export function LookAgain({ look, onClose }: { look: ReturnType<typeof useLookAgain>; onClose: () => void }) {
  const { slug } = useBench();
  const seen = useSeenIt(slug);
  const changes = look.data?.changes ?? [];
  return (
    <>
      <StageHead title="What has changed in the database">
        <Button small onClick={onClose}>
          Close
        </Button>
      </StageHead>
      <div className="grid content-start gap-3 p-4">
        {look.isError && <Notice kind="fault">{problemText(look.error)}</Notice>}
        {look.data?.first && (
          <Notice kind="say">
            It is remembered how the tables are now. The next look tells what has changed since.
          </Notice>
        )}
        {look.data && !look.data.first && changes.length === 0 && (
          <Notice kind="say">Nothing has changed since the last look.</Notice>
        )}
        <ul className="grid gap-2">
          {changes.map((change) => (
            <li
              key={`${change.what} ${change.table} ${change.column}`}
              className="rounded-stone border border-line px-3 py-2"
            >
              <span className={change.what.endsWith('gone') ? 'font-semibold text-iron' : 'font-semibold'}>
                {words[change.what](change)}
              </span>
              {change.uses.length > 0 && (
                <ul className="mt-1 list-disc pl-5 text-sm">
                  {change.uses.map((use) => (
                    <li key={use}>{use}</li>
                  ))}
                </ul>
              )}
              {change.what.endsWith('gone') && (
                <p className="text-sm text-soft">
                  {change.uses.length > 0
                    ? 'What relies on it is closed until it is mended.'
                    : 'No rule and no page uses it.'}
                </p>
              )}
            </li>
          ))}
        </ul>
        {changes.length > 0 && (
          <div>
            <Button
              weight="main"
              disabled={seen.isPending}
              onClick={() => seen.mutate(undefined, { onSuccess: onClose })}
            >
              I have seen it
            </Button>
          </div>
        )}
      </div>
    </>
  );
}
