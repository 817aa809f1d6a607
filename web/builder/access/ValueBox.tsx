import { createContext, use, useState } from 'react';
import { constantOf, constantText } from '../../../core/condition/constant';
import { describeOperand } from '../../../core/condition/describe';
import { printOperand } from '../../../core/condition/print';
import type { Operand } from '../../../core/condition/tree';
import type { Column, Table } from '../../../core/table/catalogue';
import { allRecords } from '../../client/bench';
import { ColumnInput } from '../../records/ColumnInput';
import { optionsOf, type InputColumn } from '../../records/options';
import { useBench } from '../bench/bench-context';
import { inputColumn } from '../bench/input-column';
import { factChoices, firstConstant } from './choices';
import { Select } from '../../ui/Select';

export const box = 'rounded-stone border border-line-strong bg-paper px-1 py-1 min-h-8 max-w-46 text-sm';

/** True for roles of visitors and services: they are nobody in particular, so there is no member to compare with. */
export const NoMember = createContext(false);

interface ConstantProps {
  /** The table that the column is of. */
  at: Table | undefined;
  column: Column | undefined;
  /** Typed as text whatever the column is: a pattern. */
  plain: boolean;
  operand: Operand;
  onChange: (operand: Operand) => void;
}

/** The value of a comparison: a constant, a fact of the member, or the clock. */
export function Value({ column, at, plain, operand, onChange }: ConstantProps) {
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
        <Select
          aria-label="Compared with"
          className={`${box} ${isFact ? 'bg-water-wash' : ''}`}
          value={isFact ? printOperand(operand) : ''}
          onPick={(picked) => {
            const fact = facts.find((each) => printOperand(each.operand) === picked);
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
        </Select>
      )}
      {!isFact && <ConstantBox at={at} column={column} plain={plain} operand={operand} onChange={onChange} />}
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

/** A constant: one of the choices, a record by its title, a day, or what is typed; taken when it is left. */
export function ConstantBox({ at, column, plain, operand, onChange }: ConstantProps) {
  const { slug, draft } = useBench();
  const text = constantText(operand) ?? '';
  const [typed, setTyped] = useState<string | null>(null);
  const type = plain ? 'text' : column?.type;
  const commit = (value: string) => {
    setTyped(null);
    if (value !== text) onChange(constantOf(type, value));
  };
  const input: InputColumn =
    at && column && !plain
      ? { ...inputColumn(draft, at, column), nullable: false }
      : { path: '', label: 'Value', type: 'text', nullable: false };
  const picked = optionsOf(input) !== null && !input.relation;
  return (
    <span className="w-44">
      <ColumnInput
        column={{ ...input, maxLength: undefined }}
        value={typed ?? text}
        onChange={picked ? commit : setTyped}
        place={{ base: allRecords(slug), table: at?.name ?? '', id: null }}
        inputProps={{
          'aria-label': 'Value',
          onBlur: () => commit(typed ?? text),
          onKeyDown: (event) => {
            if (event.key === 'Enter') commit(typed ?? text);
          },
        }}
        className={`field ${box}`}
      />
    </span>
  );
}

/** Several values: choices to tick, or constants between commas. */
export function ListBox({
  at,
  column,
  operands,
  onChange,
}: {
  at: Table | undefined;
  column: Column;
  operands: Operand[];
  onChange: (operands: Operand[]) => void;
}) {
  const { draft } = useBench();
  const texts = operands.map((operand) => constantText(operand) ?? printOperand(operand));
  const options = at && optionsOf(inputColumn(draft, at, column));
  if (options && column.type !== 'yes/no') {
    return (
      <span className="flex flex-wrap gap-x-3">
        {options.map(([choice, called]) => (
          <label key={choice} className="inline-flex items-center gap-1">
            <input
              type="checkbox"
              checked={texts.includes(choice)}
              onChange={(event) => {
                const next = options.filter(([each]) =>
                  each === choice ? event.target.checked : texts.includes(each),
                );
                if (next.length) onChange(next.map(([text]) => constantOf(column.type, text)));
              }}
            />{' '}
            {called}
          </label>
        ))}
      </span>
    );
  }
  if (operands.some((operand) => operand.kind !== 'text' && operand.kind !== 'number'))
    return <code className="font-code text-sm">{texts.join(', ')}</code>;
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
          onChange(values.map((value) => constantOf(column.type, value)));
      }}
    />
  );
}

/** True where a condition speaks of the row alone: not of the member, nor of the clock. */
export const RowAlone = createContext(false);
