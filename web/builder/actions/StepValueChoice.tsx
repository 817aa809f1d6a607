import { describeOperand } from '../../../core/condition/describe';
import { printOperand } from '../../../core/condition/print';
import type { Operand, ShiftedOperand } from '../../../core/condition/tree';
import { unshifted } from '../../../core/condition/tree';
import { isOperandValue, type StepValue } from '../../../core/definition/action';
import { printPath } from '../../../core/definition/path';
import { intervalUnits, type IntervalUnit } from '../../../core/sql/interval-unit';
import { findTable, type Column, type Table } from '../../../core/table/catalogue';
import { Select } from '../../ui/Select';
import { factChoices, firstConstant } from '../access/choices';
import { ConstantBox, plainConstant } from '../access/ValueBox';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

interface Props {
  /** The table of the record whose columns are offered; null where there is no record. */
  from: string | null;
  /** Whether it may be asked for. */
  asks?: boolean;
  /** The tables of the records that are made before, in their order. */
  made?: readonly string[];
  /** The table that the column is of. */
  table: Table;
  column: Column;
  value: StepValue;
  onChange: (value: StepValue | 'ask') => void;
}

const isDay = ({ type }: Column) => type === 'date' || type === 'date and time';

/** Whether one column's values go into another as they are. */
const fits = (from: Column, to: Column) =>
  from.type === to.type || (isDay(from) && isDay(to)) || (from.type.includes('text') && to.type.includes('text'));

/** What a step puts into a column. */
export function StepValueChoice({ from, asks = false, made = [], table, column, value, onChange }: Props) {
  const { draft, catalogue } = useBench();
  const names = useNames();
  const own = from === null ? undefined : findTable(catalogue, from);
  const plain = isOperandValue(value) ? unshifted(value) : null;
  const isConstant = plain !== null && ['text', 'number', 'boolean'].includes(plain.kind);
  const picked =
    value.kind === 'made'
      ? `made ${value.make}`
      : !isOperandValue(value)
        ? value.kind
        : isConstant
          ? 'value'
          : printOperand(plain!);
  const columns = (own?.columns ?? []).filter((each) => fits(each, column));
  const leadsHere = table.relations.some((each) => each.column === column.name && each.table === from);
  const facts = factChoices(draft, catalogue);
  const of = (operand: Operand) => ({ text: printOperand(operand), operand });
  const offered = [
    ...columns.map((each) => ({ ...of({ kind: 'column', path: [each.name] }), group: `the record's own` })),
    ...facts.map((each) => ({ ...of(each.operand), group: each.group })),
  ];
  const groups = [...new Set(offered.map(({ group }) => group))];
  const called = (operand: Operand) =>
    operand.kind === 'column' ? names.path(from ?? table.name, printPath(operand.path)) : describeOperand(operand);
  const pick = (chosen: string) => {
    if (chosen === 'asked') return onChange('ask');
    if (chosen.startsWith('made ')) return onChange({ kind: 'made', make: Number(chosen.slice('made '.length)) });
    if (chosen === 'nothing' || chosen === 'this') return onChange({ kind: chosen });
    if (chosen === 'value') return onChange(constantFor(column));
    const found = offered.find(({ text }) => text === chosen);
    if (found) onChange(found.operand as StepValue);
  };
  return (
    <span className="flex flex-wrap items-center gap-2">
      <Select
        aria-label={`What ${names.column(table.name, column.name)} is filled with`}
        className="w-auto max-w-60"
        value={picked}
        onPick={pick}
      >
        {asks && <option value="asked">what is asked</option>}
        <option value="value">a value</option>
        {leadsHere && <option value="this">the record itself</option>}
        {made.map(
          (of, i) =>
            table.relations.some((each) => each.column === column.name && each.table === of) && (
              <option key={i} value={`made ${i}`}>
                the record of {names.tableInText(of)} that is made before
              </option>
            ),
        )}
        {asks && column.nullable && <option value="nothing">nothing</option>}
        {plain && !isConstant && !offered.some(({ text }) => text === picked) && (
          <option value={picked}>{called(plain)}</option>
        )}
        {groups.map((group) => (
          <optgroup key={group} label={group}>
            {offered
              .filter((each) => each.group === group)
              .map(({ text, operand }) => (
                <option key={text} value={text}>
                  {called(operand)}
                </option>
              ))}
          </optgroup>
        ))}
      </Select>
      {isOperandValue(value) && isConstant && (
        <ConstantBox
          at={table}
          column={column}
          plain={false}
          operand={value}
          onChange={(next) => onChange(next as StepValue)}
        />
      )}
      {isOperandValue(value) && !isConstant && isDay(column) && (
        <Shift value={value} onChange={(next) => onChange(next as StepValue)} />
      )}
    </span>
  );
}

function constantFor(column: Column): StepValue {
  const first = firstConstant(column);
  return (first.kind === 'clock' ? plainConstant(column) : first) as StepValue;
}

const unitWords: Record<IntervalUnit, string> = {
  MINUTE: 'minutes',
  HOUR: 'hours',
  DAY: 'days',
  WEEK: 'weeks',
  MONTH: 'months',
  YEAR: 'years',
};

/** By how much a day is moved on; back where it is less than nothing. */
function Shift({ value, onChange }: { value: Operand; onChange: (value: Operand) => void }) {
  const of = unshifted(value) as ShiftedOperand['of'];
  const shifted = value.kind === 'shifted' ? value : null;
  const unit = shifted?.unit ?? 'DAY';
  const set = (count: number, by: IntervalUnit) =>
    onChange(count === 0 ? of : { kind: 'shifted', of, count, unit: by });
  return (
    <span className="inline-flex items-center gap-1 text-sm">
      and
      <input
        type="number"
        aria-label="How much later"
        className="field w-20"
        key={shifted?.count ?? 0}
        defaultValue={shifted?.count ?? 0}
        min={-99999}
        max={99999}
        onBlur={(event) => {
          const count = Math.trunc(Number(event.target.value));
          if (count !== (shifted?.count ?? 0)) set(count, unit);
        }}
      />
      <Select
        aria-label="Of what"
        className="w-auto"
        value={unit}
        onPick={(picked) => {
          if (shifted) set(shifted.count, picked as IntervalUnit);
        }}
      >
        {intervalUnits.map((each) => (
          <option key={each} value={each}>
            {unitWords[each]}
          </option>
        ))}
      </Select>
      later
    </span>
  );
}
