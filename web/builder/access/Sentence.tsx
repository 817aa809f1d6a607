import { createContext, use } from 'react';
import { X } from 'lucide-react';
import { checkCondition } from '../../../core/condition/check';
import { describeOperand } from '../../../core/condition/describe';
import { printCondition, printOperand } from '../../../core/condition/print';
import type { Comparison, Condition, ExistsCondition, Operand } from '../../../core/condition/tree';
import { printPath, readPath } from '../../../core/definition/path';
import {
  findTable,
  isPathProblem,
  resolveMany,
  type Catalogue,
  type Column,
  type Table,
} from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';
import { columnChoices, factChoices, firstCondition, firstConstant } from './choices';

const box = 'rounded-stone border border-line-strong bg-paper px-1 py-1 min-h-8 max-w-46 text-sm';

/** True where a condition speaks of the row alone: not of the member, nor of the clock. */
export const RowAlone = createContext(false);

/** A condition as a sentence whose words are choices; groups are "all of" and "any of". */
export function Sentence({
  table,
  condition,
  onChange,
  onRemove,
}: {
  table: Table;
  condition: Condition;
  onChange: (condition: Condition) => void;
  onRemove?: () => void;
}) {
  if (condition.kind === 'all' || condition.kind === 'any') {
    const set = (i: number, part: Condition) =>
      onChange({ ...condition, parts: condition.parts.map((each, j) => (j === i ? part : each)) });
    const remove = (i: number) => {
      const parts = condition.parts.filter((_, j) => j !== i);
      onChange(parts.length === 1 ? parts[0]! : { ...condition, parts });
    };
    return (
      <div className="grid gap-1.5">
        <div className="flex flex-wrap items-center gap-2">
          when
          <select
            aria-label="Group"
            className={box}
            value={condition.kind}
            onChange={(event) => onChange({ ...condition, kind: event.target.value as 'all' | 'any' })}
          >
            <option value="all">all of</option>
            <option value="any">any of</option>
          </select>
          these hold
          {onRemove && <Remove what="this group" onClick={onRemove} />}
        </div>
        <div className="ml-1 grid gap-1.5 border-l-3 border-line pl-3">
          {condition.parts.map((part, i) => (
            <Sentence
              key={i}
              table={table}
              condition={part}
              onChange={(next) => set(i, next)}
              onRemove={() => remove(i)}
            />
          ))}
          <div className="flex gap-1">
            <Button
              small
              weight="quiet"
              onClick={() => onChange({ ...condition, parts: [...condition.parts, firstCondition(table)] })}
            >
              + condition
            </Button>
            <Button
              small
              weight="quiet"
              onClick={() =>
                onChange({
                  ...condition,
                  parts: [
                    ...condition.parts,
                    {
                      kind: condition.kind === 'all' ? 'any' : 'all',
                      parts: [firstCondition(table), firstCondition(table)],
                    },
                  ],
                })
              }
            >
              + group
            </Button>
            <AddRelated
              table={table}
              onAdd={(exists) => onChange({ ...condition, parts: [...condition.parts, exists] })}
            />
          </div>
        </div>
      </div>
    );
  }
  if (condition.kind === 'exists' || (condition.kind === 'not' && condition.part.kind === 'exists'))
    return <Related table={table} condition={condition} onChange={onChange} onRemove={onRemove} />;
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <Leaf table={table} condition={condition} onChange={onChange} />
      {onRemove ? (
        <Remove what={printCondition(condition)} onClick={onRemove} />
      ) : (
        <span className="flex gap-1">
          <Button
            small
            weight="quiet"
            onClick={() => onChange({ kind: 'all', parts: [condition, firstCondition(table)] })}
          >
            and …
          </Button>
          <Button
            small
            weight="quiet"
            onClick={() => onChange({ kind: 'any', parts: [condition, firstCondition(table)] })}
          >
            or …
          </Button>
          <AddRelated table={table} onAdd={(exists) => onChange({ kind: 'all', parts: [condition, exists] })} />
        </span>
      )}
    </div>
  );
}

/** Ways to related records from a table: its own to-many relations, and those of the records that it points to. */
function manyChoices(catalogue: Catalogue, table: Table): string[][] {
  const further = table.relations.flatMap((relation) =>
    (findTable(catalogue, relation.table)?.many ?? []).map((many) => [relation.name, many.name]),
  );
  return [...(table.many ?? []).map((many) => [many.name]), ...further];
}

function AddRelated({ table, onAdd }: { table: Table; onAdd: (exists: Condition) => void }) {
  const { catalogue } = useBench();
  const [first] = manyChoices(catalogue, table);
  return first ? (
    <Button small weight="quiet" onClick={() => onAdd({ kind: 'exists', relation: first, where: null })}>
      + related records
    </Button>
  ) : null;
}

/** "There is a visit where …": related records, with a sentence about them of their own. */
function Related({
  table,
  condition,
  onChange,
  onRemove,
}: {
  table: Table;
  condition: Condition;
  onChange: (condition: Condition) => void;
  onRemove?: () => void;
}) {
  const { catalogue } = useBench();
  const none = condition.kind === 'not';
  const exists = (none ? condition.part : condition) as ExistsCondition;
  const found = resolveMany(catalogue, table, exists.relation);
  const inner = isPathProblem(found) ? null : found.table;
  const set = (next: ExistsCondition, without = none) => onChange(without ? { kind: 'not', part: next } : next);
  const at = printPath(exists.relation);
  const choices = manyChoices(catalogue, table).map(printPath);
  return (
    <div className="grid gap-1.5">
      <div className="flex flex-wrap items-center gap-1.5">
        <select
          aria-label="Whether"
          className={box}
          value={none ? 'no' : 'a'}
          onChange={(event) => set(exists, event.target.value === 'no')}
        >
          <option value="a">there is a record of</option>
          <option value="no">there is no record of</option>
        </select>
        <select
          aria-label="Related records"
          className={`${box} bg-sunk font-semibold`}
          value={at}
          onChange={(event) => set({ kind: 'exists', relation: readPath(event.target.value)!, where: null })}
        >
          {!choices.includes(at) && <option value={at}>{at}</option>}
          {choices.map((each) => (
            <option key={each} value={each}>
              {each.replaceAll('_', ' ').replaceAll('.', "'s ")}
            </option>
          ))}
        </select>
        {exists.where === null && inner && (
          <Button small weight="quiet" onClick={() => set({ ...exists, where: firstCondition(inner) })}>
            where …
          </Button>
        )}
        {onRemove && <Remove what={printCondition(condition)} onClick={onRemove} />}
      </div>
      {exists.where !== null && inner && (
        <div className="ml-1 border-l-3 border-line pl-3">
          <Sentence table={inner} condition={exists.where} onChange={(where) => set({ ...exists, where })} />
          <Button small weight="quiet" onClick={() => set({ ...exists, where: null })}>
            whichever it is
          </Button>
        </div>
      )}
    </div>
  );
}

function Remove({ what, onClick }: { what: string; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-label={`Remove ${what}`}
      className="grid size-7 place-items-center rounded-stone text-soft hover:bg-sunk"
      onClick={onClick}
    >
      <X size={14} aria-hidden />
    </button>
  );
}

type Shape = Comparison | 'one of' | 'none of' | 'from to' | 'like' | 'not like' | 'empty' | 'filled';

const shapeWords: Record<Shape, string> = {
  '=': 'is',
  '<>': 'is not',
  '<': 'is less than',
  '<=': 'is at most',
  '>': 'is more than',
  '>=': 'is at least',
  'one of': 'is one of',
  'none of': 'is none of',
  'from to': 'is from … to',
  like: 'looks like',
  'not like': 'does not look like',
  empty: 'is empty',
  filled: 'is filled',
};

/** Shapes that ask for an order or for parts, which some types have not. */
const ordered = new Set<Shape>(['<', '<=', '>', '>=', 'from to', 'like', 'not like']);

/** The shape of a condition that one line can show; null for others, which are shown as text. */
function shapeOf(condition: Condition): Shape | null {
  switch (condition.kind) {
    case 'compare':
      return condition.left.kind === 'column' ? condition.comparison : null;
    case 'in':
      return 'one of';
    case 'between':
      return 'from to';
    case 'like':
      return 'like';
    case 'null':
      return 'empty';
    case 'not':
      return condition.part.kind === 'null'
        ? 'filled'
        : condition.part.kind === 'in'
          ? 'none of'
          : condition.part.kind === 'like'
            ? 'not like'
            : null;
    default:
      return null;
  }
}

function Leaf({
  table,
  condition,
  onChange,
}: {
  table: Table;
  condition: Condition;
  onChange: (condition: Condition) => void;
}) {
  const { catalogue } = useBench();
  const alone = use(RowAlone);
  const shape = shapeOf(condition);
  const inner = condition.kind === 'not' ? condition.part : condition;
  const left = 'left' in inner ? inner.left : null;
  if (!shape || left?.kind !== 'column')
    return (
      <code className="rounded-stone border border-line bg-sunk px-2 py-1 font-code text-sm">
        {printCondition(condition)}
      </code>
    );
  const columns = columnChoices(catalogue, table);
  const at = printPath(left.path);
  const column = columns.find((each) => printPath(each.path) === at)?.column;
  const operands =
    'list' in inner
      ? inner.list
      : 'high' in inner
        ? [inner.low, inner.high]
        : 'pattern' in inner
          ? [inner.pattern]
          : 'right' in inner
            ? [inner.right]
            : [];
  const rebuild = (path: string[], nextShape: Shape, nextColumn: Column | undefined, values: Operand[]): void => {
    const constant = alone ? plainConstant(nextColumn) : beginning(nextColumn);
    const made = build(path, nextShape, constant, values);
    // A value that doesn't fit the new column gives way to one that does.
    const fits = checkCondition(made, { catalogue, table, member: !alone }).length === 0;
    onChange(fits || !nextColumn ? made : build(path, nextShape, constant, []));
  };
  const setOperands = (values: Operand[]) => onChange(build(left.path, shape, beginning(column), values));
  return (
    <>
      <select
        aria-label="Column"
        className={`${box} bg-sunk font-semibold`}
        value={at}
        onChange={(event) => {
          const next = columns.find((each) => printPath(each.path) === event.target.value)!;
          rebuild(next.path, shape, next.column, operands);
        }}
      >
        {!column && <option value={at}>{at} (gone)</option>}
        {columns.map((each) => (
          <option key={printPath(each.path)} value={printPath(each.path)}>
            {describeOperand({ kind: 'column', path: each.path })}
          </option>
        ))}
      </select>
      <select
        aria-label="Comparison"
        className={`${box} bg-sunk`}
        value={shape}
        onChange={(event) => rebuild(left.path, event.target.value as Shape, column, operands)}
      >
        {(Object.keys(shapeWords) as Shape[])
          .filter((each) => each === shape || !column?.equalityOnly || !ordered.has(each))
          .map((each) => (
            <option key={each} value={each}>
              {shapeWords[each]}
            </option>
          ))}
      </select>
      {(shape === 'one of' || shape === 'none of') && column ? (
        <ListBox column={column} operands={operands} onChange={setOperands} />
      ) : (
        operands.map((operand, i) => (
          <Value
            key={i}
            column={column}
            plain={shape === 'like' || shape === 'not like'}
            operand={operand}
            onChange={(next) => setOperands(operands.map((each, j) => (j === i ? next : each)))}
          />
        ))
      )}
    </>
  );
}

/** The condition with the values that there are; `constant` stands in for those that are not. */
function build(path: string[], shape: Shape, constant: Operand, values: Operand[]): Condition {
  const left: Operand = { kind: 'column', path };
  const first = values[0] ?? constant;
  const not = (part: Condition): Condition => ({ kind: 'not', part });
  switch (shape) {
    case 'empty':
      return { kind: 'null', left };
    case 'filled':
      return not({ kind: 'null', left });
    case 'one of':
      return { kind: 'in', left, list: values.length ? values : [constant] };
    case 'none of':
      return not({ kind: 'in', left, list: values.length ? values : [constant] });
    case 'from to':
      return { kind: 'between', left, low: first, high: values[1] ?? first };
    case 'like':
    case 'not like': {
      const like: Condition = {
        kind: 'like',
        left,
        pattern: first.kind === 'text' ? first : { kind: 'text', text: '%' },
      };
      return shape === 'like' ? like : not(like);
    }
    default:
      return { kind: 'compare', left, comparison: shape, right: first };
  }
}

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

function beginning(column: Column | undefined): Operand {
  return column ? firstConstant(column) : { kind: 'text', text: '' };
}

function plainConstant(column: Column | undefined): Operand {
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
function ListBox({
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
