import type { Condition } from '../../../core/condition/tree';
import { fromOf, type Form } from '../../../core/definition/form';
import { findTable, type Table } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';
import { ShownWhen } from './ShownWhen';

interface Times {
  when?: Condition;
  ofRecord?: Condition;
}

/** When a step or a part of a form is there: by what is entered, and by the record that it opens with. */
export function AtTimes({
  form,
  table,
  called,
  times,
  entered = true,
  onChange,
}: {
  form: Form;
  table: Table;
  called: string;
  times: Times;
  /** Whether something is entered before it. */
  entered?: boolean;
  onChange: (label: string, recipe: (times: Times) => void) => Promise<string | null>;
}) {
  const { catalogue } = useBench();
  const names = useNames();
  const name = fromOf(form);
  const from = name === null ? undefined : findTable(catalogue, name);
  const set = (key: keyof Times) => (where: Condition | null) =>
    onChange(`Set when ${called} is shown`, (next) => {
      if (where) next[key] = where;
      else delete next[key];
    });
  return (
    <>
      {entered && (
        <ShownWhen
          table={table}
          name={`When ${called} is shown`}
          where={times.when}
          always="Always shown."
          onChange={set('when')}
        />
      )}
      {from && (
        <ShownWhen
          table={from}
          name={`Of which ${names.tableInText(from.name)} ${called} is shown`}
          where={times.ofRecord}
          always={`For all of ${names.tableInText(from.name)}.`}
          word={`Only for ${names.tableInText(from.name)} where`}
          ofRecord
          onChange={set('ofRecord')}
        />
      )}
    </>
  );
}
