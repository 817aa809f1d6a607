import { describeOperand } from '../../../core/condition/describe';
import { printOperand } from '../../../core/condition/print';
import type { Operand } from '../../../core/condition/tree';
import type { Action, StepValue } from '../../../core/definition/action';
import { printPath } from '../../../core/definition/path';
import type { Table } from '../../../core/table/catalogue';
import { Select } from '../../ui/Select';
import { columnChoices, factChoices } from '../access/choices';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

interface Offered {
  key: string;
  called: string;
  group: string;
  value: StepValue;
}

const keyOf = (value: StepValue): string =>
  value.kind === 'asked' ? `asked ${value.ask}` : value.kind === 'this' ? 'this' : printOperand(value as Operand);

/** What a call tells: something of the record, of whoever presses, what was asked, or a text. */
export function SentValueChoice({
  action,
  table,
  called,
  value,
  onChange,
}: {
  action: Action;
  table: Table;
  called: string;
  value: StepValue;
  onChange: (value: StepValue) => void;
}) {
  const { draft, catalogue } = useBench();
  const names = useNames();
  const of = (given: StepValue, words: string, group: string): Offered => ({
    key: keyOf(given),
    called: words,
    group,
    value: given,
  });
  const offered = [
    ...columnChoices(catalogue, table).map(({ path }) =>
      of({ kind: 'column', path }, names.path(table.name, printPath(path)), 'of the record'),
    ),
    of({ kind: 'this' }, 'its key', 'of the record'),
    ...action.asks.map(({ id, table: from, column, label }) =>
      of({ kind: 'asked', ask: id }, label ?? names.column(from, column), 'what is asked'),
    ),
    ...factChoices(draft, catalogue).map(({ operand, group }) =>
      of(operand as StepValue, describeOperand(operand), group),
    ),
  ];
  const isText = value.kind === 'text';
  const picked = isText ? 'text' : keyOf(value);
  const groups = [...new Set(offered.map(({ group }) => group))];
  return (
    <span className="flex flex-wrap items-center gap-2">
      <Select
        aria-label={`What is told as ${called}`}
        className="w-auto max-w-72"
        value={picked}
        onPick={(key) => {
          const found = offered.find((each) => each.key === key);
          if (key === 'text') onChange({ kind: 'text', text: called });
          else if (found) onChange(found.value);
        }}
      >
        {!isText && !offered.some(({ key }) => key === picked) && <option value={picked}>a value</option>}
        <option value="text">a text</option>
        {groups.map((group) => (
          <optgroup key={group} label={group}>
            {offered
              .filter((each) => each.group === group)
              .map(({ key, called: words }) => (
                <option key={key} value={key}>
                  {words}
                </option>
              ))}
          </optgroup>
        ))}
      </Select>
      {isText && (
        <input
          className="field w-44"
          aria-label={`The text that is told as ${called}`}
          key={value.text}
          defaultValue={value.text}
          maxLength={500}
          onBlur={(event) => {
            if (event.target.value !== value.text) onChange({ kind: 'text', text: event.target.value });
          }}
        />
      )}
    </span>
  );
}
