import { stepsOf, type RulePromise } from '../../../core/access/promises';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';

/** By which of a table's moves or actions something is promised; by any where none is chosen. */
export function StepChoice({ promise, onPick }: { promise: RulePromise; onPick: (step: string) => void }) {
  const { draft } = useBench();
  const { operation, table, step = '' } = promise;
  const isAct = operation === 'act';
  const steps = stepsOf(draft, table, isAct ? 'act' : 'move');
  return (
    <Select aria-label={isAct ? 'By which action' : 'By which move'} className="w-auto" value={step} onPick={onPick}>
      <option value="">{isAct ? 'by any action' : 'by any move'}</option>
      {steps.map(({ id, name }) => (
        <option key={id} value={id}>
          by “{name}”
        </option>
      ))}
      {step !== '' && !steps.some(({ id }) => id === step) && <option value={step}>by one that is gone</option>}
    </Select>
  );
}
