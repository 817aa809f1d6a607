import { Check } from 'lucide-react';
import { problemText, ServerProblem } from '../client/http';
import type { DoubtTold } from '../client/comments';
import { useSaveRecord } from '../client/portal';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { Notice } from '../ui/Notice';
import { cellText } from './Cell';
import { faultsIn } from './field-faults';

/** What a comment says to be wrong, with what is meant: whoever may change it puts it in with a press. */
export function Doubt({ table, id, wrong }: { table: string; id: string; wrong: DoubtTold }) {
  const { base, seenBy } = usePlace();
  const save = useSaveRecord(base, table, id);
  const { column, was, meant, now, isRight, takes } = wrong;
  const said = (value: typeof was) => (value === null ? 'nothing' : cellText(column.type, value, column.identifies));
  const take = () => save.mutate({ [column.path]: { from: now, to: meant } });
  return (
    <div className="grid justify-items-start gap-1">
      <p>
        <strong>{column.label}</strong> is wrong: it said <bdi className="line-through">{said(was)}</bdi>
        {meant !== null && (
          <>
            , and should be <bdi className="font-semibold">{said(meant)}</bdi>
          </>
        )}
        .
      </p>
      {isRight && (
        <p className="inline-flex items-center gap-1 text-lichen-ink">
          <Check size={14} aria-hidden /> It says so by now.
        </p>
      )}
      {takes && (
        <Button small className="no-print" disabled={seenBy || save.isPending} onClick={take}>
          Put in {said(meant)}
        </Button>
      )}
      {save.isError && <Notice kind="fault">{faultText(save.error, wrong)}</Notice>}
    </div>
  );
}

function faultText(error: Error, { column }: DoubtTold): string {
  const own = error instanceof ServerProblem ? faultsIn(error, [column])[column.path] : undefined;
  return own ?? problemText(error);
}
