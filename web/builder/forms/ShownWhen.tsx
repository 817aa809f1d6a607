import type { Condition } from '../../../core/condition/tree';
import type { Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { firstCondition } from '../access/choices';
import { ConditionEditor } from '../access/ConditionEditor';

/** When something of a form is there: always, or where a condition on what is entered holds. */
export function ShownWhen({
  table,
  name,
  where,
  always,
  word = 'Only when',
  ofRecord = false,
  onChange,
}: {
  table: Table;
  name: string;
  where: Condition | undefined;
  /** What is said where there is no condition. */
  always: string;
  word?: string;
  /** A condition on a record that is there, and not on what is entered. */
  ofRecord?: boolean;
  onChange: (where: Condition | null) => Promise<string | null>;
}) {
  if (!where)
    return (
      <span className="flex flex-wrap items-center gap-2 text-sm text-soft">
        {always}
        <Button small weight="quiet" onClick={() => void onChange(firstCondition(table))}>
          {word} …<span className="sr-only"> ({name})</span>
        </Button>
      </span>
    );
  return (
    <div className="grid gap-1">
      <span className="text-sm font-semibold">{word}</span>
      <ConditionEditor table={table} alone={!ofRecord} nameable={false} name={name} value={where} onChange={onChange} />
      <Button small className="justify-self-start" onClick={() => void onChange(null)}>
        {ofRecord ? 'For every record' : 'Always'}
        <span className="sr-only"> ({name})</span>
      </Button>
    </div>
  );
}
