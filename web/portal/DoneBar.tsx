import { useState } from 'react';
import { X } from 'lucide-react';
import { problemText } from '../client/http';
import type { DoneHere } from '../place/done';
import { Button } from '../ui/Button';

/** What was just done, at the foot of the portal, with the way to take it back where there is one. */
export function DoneBar({ done, onDone }: { done: DoneHere | null; onDone: (next: DoneHere | null) => void }) {
  const [busy, setBusy] = useState(false);
  const undo = async (work: () => Promise<void>) => {
    setBusy(true);
    try {
      await work();
    } catch (error) {
      onDone({ words: problemText(error), fault: true });
    } finally {
      setBusy(false);
    }
  };
  return (
    <div role="status" className="no-print sticky bottom-12 @min-[560px]:bottom-3 z-20 flex justify-center px-3">
      {done && (
        <div
          className={
            'flex flex-wrap items-center gap-3 rounded-stone border bg-paper px-3 py-2 ' +
            (done.fault ? 'border-iron' : 'border-line-strong')
          }
        >
          <span>{done.words}</span>
          {done.undo && (
            <Button small disabled={busy} onClick={() => void undo(done.undo!)}>
              {busy ? 'Undoing …' : 'Undo'}
            </Button>
          )}
          <Button small weight="quiet" aria-label="Close" onClick={() => onDone(null)}>
            <X size={15} aria-hidden />
          </Button>
        </div>
      )}
    </div>
  );
}
