import { createContext, use } from 'react';
import { describeOperand } from '../../../core/condition/describe';
import { printOperand } from '../../../core/condition/print';
import type { Operand } from '../../../core/condition/tree';
import type { Column } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { factChoices, firstConstant } from './choices';

export const box = 'rounded-stone border border-line-strong bg-paper px-1 py-1 min-h-8 max-w-46 text-sm';

/** True for roles of visitors and services: they are nobody in particular, so there is no member to compare with. */
export const NoMember = createContext(false);

/** The value of a comparison: a constant, a fact of the member, or the clock. */
export function Value({
  column,
  plain,
  operand,
  onChange,
}: {
  column: Column | undefined;
  plain: boolean;
  operand: Operand;
  onChange: (operand: Operand) => void;
}) {
  const { draft, catalogue } = useBench();
  const nobody = use(NoMember);
  const facts = use(RowAlone)
    ? []
    : factChoices(draft, catalogue).filter((fact) => !nobody || fact.operand.kind === 'clock');
  const isFact = ['member', 'clock', 'column', 'record', 'shifted'].includes(operand.kind);
  const groups = [...new Set(facts.map((fact) => fact.group))];
  return (
    <>
      {!plain && (facts.length > 0 || isFact) && (
        <select
          aria-label="Compared with"
          className={`${box} ${isFact ? 'bg-water-wash' : ''}`}
          value={isFact ? printOperand(operand) : ''}
          onChange={(event) => {
            const fact = facts.find((each) => printOperand(each.operand) === event.target.value);
            onChange(fact ? fact.operand : plainConstant(column));
          }}
        >
          <option value="">a value</option>
          {isFact && !facts.some((fact) => printOperand(fact.operand) === printOperand(operand)) && (
            <option value={printOperand(operand)}>{describeOperand(operand)}</option>
          )}
          {groups.map((group) => (
            <optgroup key={group} label={group}>
              {facts
                .filter((fact) => fact.group === group)
                .map((fact) => (
                  <option key={printOperand(fact.operand)} value={printOperand(fact.operand)}>
                    {describeOperand(fact.operand)}
                  </option>
                ))}
            </optgroup>
          ))}
        </select>
      )}
      {!isFact && <ConstantBox column={column} plain={plain} operand={operand} onChange={onChange} />}
    </>
  );
}

export function beginning(column: Column | undefined): Operand {
  return column ? firstConstant(column) : { kind: 'text', text: '' };
}

export function plainConstant(column: Column | undefined): Operand {
  const constant = beginning(column);
  return constant.kind === 'clock' ? { kind: 'text', text: new Date().toISOString().slice(0, 10) } : constant;
}

function ConstantBox({
  column,
  plain,
  operand,
  onChange,
}: {
  column: Column | undefined;
  plain: boolean;
  operand: Operand;
  onChange: (operand: Operand) => void;
}) {
  if (operand.kind === 'boolean')
    return (
      <select
        aria-label="Value"
        className={box}
        value={String(operand.value)}
        onChange={(event) => onChange({ kind: 'boolean', value: event.target.value === 'true' })}
      >
        <option value="true">yes</option>
        <option value="false">no</option>
      </select>
    );
  if (!plain && column?.type === 'one choice' && operand.kind === 'text')
    return (
      <select
        aria-label="Value"
        className={box}
        value={operand.text}
        onChange={(event) => onChange({ kind: 'text', text: event.target.value })}
      >
        {column.choices?.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  const text = operand.kind === 'number' ? operand.digits : operand.kind === 'text' ? operand.text : '';
  const commit = (value: string) => {
    if (value === text) return;
    const numeric = operand.kind === 'number' && /^-?\d+([.,]\d+)?$/.test(value.trim());
    onChange(numeric ? { kind: 'number', digits: value.trim().replace(',', '.') } : { kind: 'text', text: value });
  };
  const type = column?.type === 'date' && operand.kind === 'text' ? 'date' : 'text';
  return (
    <input
      key={text}
      aria-label="Value"
      className={`${box} w-40`}
      type={type}
      defaultValue={text}
      onBlur={(event) => commit(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit(event.currentTarget.value);
      }}
    />
  );
}

/** Several values: choices to tick, or constants between commas. */
export function ListBox({
  column,
  operands,
  onChange,
}: {
  column: Column;
  operands: Operand[];
  onChange: (operands: Operand[]) => void;
}) {
  const texts = operands.map((operand) =>
    operand.kind === 'text' ? operand.text : operand.kind === 'number' ? operand.digits : printOperand(operand),
  );
  if (column.type === 'one choice') {
    return (
      <span className="flex flex-wrap gap-x-3">
        {column.choices?.map((choice) => (
          <label key={choice} className="inline-flex items-center gap-1">
            <input
              type="checkbox"
              checked={texts.includes(choice)}
              onChange={(event) => {
                const next = column.choices!.filter((each) =>
                  each === choice ? event.target.checked : texts.includes(each),
                );
                if (next.length) onChange(next.map((text) => ({ kind: 'text', text })));
              }}
            />{' '}
            {choice}
          </label>
        ))}
      </span>
    );
  }
  if (operands.some((operand) => operand.kind !== 'text' && operand.kind !== 'number'))
    return <code className="font-code text-sm">{texts.join(', ')}</code>;
  const numeric = ['whole number', 'decimal', 'number'].includes(column.type);
  return (
    <input
      key={texts.join(',')}
      aria-label="Values, separated by commas"
      className={`${box} w-64`}
      defaultValue={texts.join(', ')}
      onBlur={(event) => {
        const values = event.target.value
          .split(',')
          .map((each) => each.trim())
          .filter(Boolean);
        if (values.length && values.join(',') !== texts.join(','))
          onChange(
            values.map((value): Operand =>
              numeric && /^-?\d+(\.\d+)?$/.test(value)
                ? { kind: 'number', digits: value }
                : { kind: 'text', text: value },
            ),
          );
      }}
    />
  );
}

/** True where a condition speaks of the row alone: not of the member, nor of the clock. */
export const RowAlone = createContext(false);
