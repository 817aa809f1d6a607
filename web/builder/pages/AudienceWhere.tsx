import { lazy, Suspense, useState } from 'react';
import { audienceScope } from '../../../core/access/audience';
import { readCondition } from '../../../core/condition/check';
import { describeCondition } from '../../../core/condition/describe';
import { printCondition } from '../../../core/condition/print';
import { ConditionError } from '../../../core/condition/tokens';
import type { Condition } from '../../../core/condition/tree';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';

const ConditionText = lazy(() => import('../access/ConditionText').then((part) => ({ default: part.ConditionText })));

/** Narrows an audience to those of whom a condition holds; it speaks of what is known of a member alone. */
export function AudienceWhere({
  name,
  where,
  onChange,
}: {
  name: string;
  where: Condition | undefined;
  onChange: (where: Condition | undefined) => Promise<string | null>;
}) {
  const { catalogue } = useBench();
  const kept = where === undefined ? '' : printCondition(where);
  const [typed, setTyped] = useState<string | null>(null);
  const [given, setGiven] = useState(kept);
  const [fault, setFault] = useState<string | null>(null);
  // A change from elsewhere takes the place of what is shown.
  if (given !== kept) {
    setGiven(kept);
    setTyped(null);
    setFault(null);
  }
  const scope = audienceScope(catalogue);
  const take = () => {
    if (typed === null) return;
    if (typed.trim() === '') {
      setTyped(null);
      setFault(null);
      if (kept !== '') void onChange(undefined).then(setFault);
      return;
    }
    try {
      const next = readCondition(typed, scope);
      setFault(null);
      if (printCondition(next) === kept) setTyped(null);
      else void onChange(next).then(setFault);
    } catch (error) {
      if (!(error instanceof ConditionError)) throw error;
      setFault(error.message);
    }
  };
  if (where === undefined && typed === null)
    return (
      <Button small className="mt-1 justify-self-start" onClick={() => setTyped(':member.')}>
        Only those of whom something holds …
      </Button>
    );
  return (
    <div className="grid gap-1">
      <p className="text-sm">
        Of these, only those of whom this holds{where && fault === null ? `: ${describeCondition(where)}` : ''}
      </p>
      <Suspense>
        <ConditionText
          table={scope.table}
          name={name}
          text={typed ?? kept}
          wrong={fault !== null}
          onChange={setTyped}
          onDone={take}
        />
      </Suspense>
      {fault !== null && (
        <p role="alert" className="text-sm font-medium text-iron">
          {fault}. Not saved yet.
        </p>
      )}
      <p className="text-sm text-soft">Empty lets all of them have it.</p>
    </div>
  );
}
