import { formState, type FormState } from '../../core/form/form-state';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { parseValue, type Row } from '../../core/table/value';
import type { ShowProps } from '../show';

export type FormInfo = NonNullable<ShowProps<'form'>['section']['form']>;

/** What was typed, by column, in the form of `plainText`. */
export type Typed = Record<string, string>;

/** What a form begins with. */
export const firstTyped = ({ first }: FormInfo): Typed =>
  Object.fromEntries(Object.entries(first).map(([column, value]) => [column, plainText(value)]));

/** What the form is with what was typed so far, worked out as the server does it. */
export function stateOf(form: FormInfo, typed: Typed): FormState {
  const entered: Row = {};
  const faults: Record<string, string> = {};
  for (const column of form.columns) {
    const parsed = parseValue({ ...column, nullable: true }, fromPlain(column, typed[column.name] ?? ''));
    if (parsed.ok) entered[column.name] = parsed.value;
    else faults[column.name] = parsed.problem;
  }
  const table = { name: form.table, columns: form.columns, key: [], relations: [] };
  const state = formState(form, table, entered, form);
  const asked = Object.entries(faults).filter(([column]) => state.asked.has(column));
  return { ...state, faults: { ...state.faults, ...Object.fromEntries(asked) } };
}

/** What is sent of what was typed: what is asked now. */
export const valuesToSend = (form: FormInfo, { asked }: FormState, typed: Typed): Record<string, unknown> =>
  Object.fromEntries(
    form.columns
      .filter(({ name }) => asked.has(name))
      .map((column) => [column.name, fromPlain(column, typed[column.name] ?? '')]),
  );
