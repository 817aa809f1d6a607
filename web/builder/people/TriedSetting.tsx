import type { ReactNode } from 'react';
import type { UseMutationResult } from '@tanstack/react-query';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';

/** Something set up elsewhere: what it is, a press that tries it and says what came of that, and a way to change it. */
export function TriedSetting({
  label,
  says,
  word,
  trying,
  change,
  children,
}: {
  label: string;
  says: ReactNode;
  /** What the press to try it says; null where there is nothing to try. */
  word: string | null;
  trying: UseMutationResult<{ fine: boolean; answer: string }, Error, void>;
  change: ReactNode;
  children?: ReactNode;
}) {
  return (
    <section aria-label={label} className="grid gap-2 rounded-stone border border-line bg-paper p-3">
      <div className="flex flex-wrap items-center gap-3">
        <span className="min-w-60 flex-1">{says}</span>
        {word !== null && (
          <Button small disabled={trying.isPending} onClick={() => trying.mutate()}>
            {trying.isPending ? 'Trying …' : word}
          </Button>
        )}
        {change}
      </div>
      {children}
      {trying.data && <Notice kind={trying.data.fine ? 'say' : 'fault'}>{trying.data.answer}</Notice>}
      {trying.isError && <Notice kind="fault">{problemText(trying.error)}</Notice>}
    </section>
  );
}
