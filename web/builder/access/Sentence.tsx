import { use } from 'react';
import { X } from 'lucide-react';
import { checkCondition } from '../../../core/condition/check';
import { describeOperand } from '../../../core/condition/describe';
import { printCondition } from '../../../core/condition/print';
import type { Condition, ExistsCondition, Operand } from '../../../core/condition/tree';
import { printPath, readPath } from '../../../core/definition/path';
import { isPathProblem, resolveMany, type Column, type Table } from '../../../core/table/catalogue';
import { Button } from '../../ui/Button';
import { useBench } from '../bench/bench-context';
import { useNaming } from '../bench/names';
import { columnChoices, firstCondition } from './choices';
import { shapeOf, type Shape, build, shapeWords, ordered } from './comparison-shape';
import { box, plainConstant, beginning, ListBox, Value, RowAlone } from './ValueBox';
import { AddRelated, manyChoices } from './AddRelated';
import { Select } from '../../ui/Select';

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
          <Select
            aria-label="Group"
            className={box}
            value={condition.kind}
            onPick={(picked) => onChange({ ...condition, kind: picked as 'all' | 'any' })}
          >
            <option value="all">all of</option>
            <option value="any">any of</option>
          </Select>
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
  const naming = useNaming();
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
  const chosen = columns.find((each) => printPath(each.path) === at);
  const column = chosen?.column;
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
      <Select
        aria-label="Column"
        className={`${box} bg-sunk font-semibold`}
        value={at}
        onPick={(picked) => {
          const next = columns.find((each) => printPath(each.path) === picked)!;
          rebuild(next.path, shape, next.column, operands);
        }}
      >
        {!column && <option value={at}>{at} (gone)</option>}
        {columns.map((each) => (
          <option key={printPath(each.path)} value={printPath(each.path)}>
            {describeOperand({ kind: 'column', path: each.path }, naming(table.name))}
          </option>
        ))}
      </Select>
      <Select
        aria-label="Comparison"
        className={`${box} bg-sunk`}
        value={shape}
        onPick={(picked) => rebuild(left.path, picked as Shape, column, operands)}
      >
        {(Object.keys(shapeWords) as Shape[])
          .filter((each) => each === shape || !column?.equalityOnly || !ordered.has(each))
          .map((each) => (
            <option key={each} value={each}>
              {shapeWords[each]}
            </option>
          ))}
      </Select>
      {(shape === 'one of' || shape === 'none of') && column ? (
        <ListBox at={chosen?.at} column={column} operands={operands} onChange={setOperands} />
      ) : (
        operands.map((operand, i) => (
          <Value
            key={i}
            at={chosen?.at}
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
        <Select
          aria-label="Whether"
          className={box}
          value={none ? 'no' : 'a'}
          onPick={(picked) => set(exists, picked === 'no')}
        >
          <option value="a">there is a record of</option>
          <option value="no">there is no record of</option>
        </Select>
        <Select
          aria-label="Related records"
          className={`${box} bg-sunk font-semibold`}
          value={at}
          onPick={(picked) => set({ kind: 'exists', relation: readPath(picked)!, where: null })}
        >
          {!choices.includes(at) && <option value={at}>{at}</option>}
          {choices.map((each) => (
            <option key={each} value={each}>
              {each.replaceAll('_', ' ').replaceAll('.', "'s ")}
            </option>
          ))}
        </Select>
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
