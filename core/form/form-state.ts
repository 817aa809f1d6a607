import { evaluate } from '../condition/evaluate';
import type { ConditionContext } from '../condition/operand-value';
import type { Condition } from '../condition/tree';
import type { Form, FormInput, FormPart } from '../definition/form';
import type { Table } from '../table/catalogue';
import type { Row, Value } from '../table/value';
import { enteredScope } from './form-conditions';

/**
 * What a form is, with what was entered so far: the same in the browser and on the server, where it has the last word.
 */
export interface FormState {
  /** The steps that are shown, each with its parts that are. */
  steps: { id: string; title: string; across: 1 | 2 | 3; parts: FormPart[] }[];
  /** Columns of which something is asked now. */
  asked: ReadonlySet<string>;
  required: ReadonlySet<string>;
  /** What is wrong with what was entered, by column. */
  faults: Record<string, string>;
  /** What is sent: of what is not asked nothing. */
  values: Row;
}

type Asked = Pick<Form, 'steps' | 'rules'>;

const isEmpty = (value: Value | undefined): boolean =>
  value === undefined || value === null || value === '' || (Array.isArray(value) && value.length === 0);

/**
 * Works out a form from what was entered, by column. What is not asked, or not yet, counts as not entered, also for the
 * conditions of what is.
 */
export function formState(
  form: Asked,
  table: Table,
  entered: Row,
  clock: Pick<ConditionContext, 'today' | 'now'>,
): FormState {
  const scope = enteredScope(table);
  const context: ConditionContext = { facts: {}, ...clock };
  const holds = (when: Condition | undefined, values: Row): boolean => {
    if (when === undefined) return true;
    const read = { value: ([column]: readonly string[]) => values[column!] ?? null, exists: () => false };
    return evaluate(when, scope, read, context) === true;
  };
  const asked = new Set<string>();
  const values: Row = {};
  // In their order: what is shown goes by what was asked before it, so nothing goes round in a circle.
  const isShown = (part: FormPart): boolean => {
    if (!holds(part.when, values)) return false;
    if (part.kind === 'input') {
      asked.add(part.column);
      if (Object.hasOwn(entered, part.column)) values[part.column] = entered[part.column]!;
    }
    return true;
  };
  const steps = form.steps.flatMap(({ id, title, across, parts, when }): FormState['steps'] =>
    holds(when, values) ? [{ id, title, across: across ?? 1, parts: parts.filter(isShown) }] : [],
  );

  const required = new Set(inputs(steps).flatMap((input) => (input.required ? [input.column] : [])));
  const faults: Record<string, string> = {};
  for (const { does, columns, when, message } of form.rules ?? []) {
    if (!holds(when, values)) continue;
    for (const column of columns.filter((each) => asked.has(each))) {
      if (does === 'required') required.add(column);
      if (does === 'refused' || isEmpty(values[column])) faults[column] ??= message ?? needed;
    }
  }
  for (const column of required) if (isEmpty(values[column])) faults[column] ??= needed;
  return { steps, asked, required, faults, values };
}

const needed = 'This needs a value.';

const inputs = (steps: FormState['steps']): FormInput[] =>
  steps.flatMap(({ parts }) => parts.filter((part): part is FormInput => part.kind === 'input'));
