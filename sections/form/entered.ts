import { inputsOf, linesOf, type FormLines, type FormPart } from '../../core/definition/form';
import { linesFaults, linesPlace, linesState } from '../../core/form/lines';
import { formState, type FormState } from '../../core/form/form-state';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { parseValue, type Row } from '../../core/table/value';
import type { ShowProps } from '../show';

export type FormInfo = NonNullable<ShowProps<'form'>['section']['form']>;

/** What was typed, by column, in the form of `plainText`. */
export type Typed = Record<string, string>;

/** What a form begins with; `given` is what a link says, of what is asked. */
export const firstTyped = ({ first, inputs }: FormInfo, given: Readonly<Typed> = {}): Typed => ({
  ...Object.fromEntries(Object.entries(first).map(([column, value]) => [column, plainText(value)])),
  ...Object.fromEntries(Object.entries(given).filter(([column]) => inputs.some(({ path }) => path === column))),
});

/** What is taken from a link alone. */
const signedOf = ({ steps }: FormInfo): string[] =>
  inputsOf({ steps }).flatMap(({ column, signed }) => (signed ? [column] : []));

/**
 * What a signed link says, as it is shown; whether it is ours the server knows. Null where the form takes something
 * from a link and there is none.
 */
export function typedByLink(form: FormInfo, link: string | undefined): Typed | null {
  const columns = signedOf(form);
  if (columns.length === 0) return {};
  try {
    const text = (link ?? '').split('.')[0]!.replaceAll('-', '+').replaceAll('_', '/');
    const bytes = Uint8Array.from(atob(text), (each) => each.charCodeAt(0));
    const { values } = JSON.parse(new TextDecoder().decode(bytes)) as { values: Row };
    return Object.fromEntries(columns.map((column) => [column, plainText(values[column] ?? null)]));
  } catch {
    return null;
  }
}

/** Where the lines of a part are kept among what was typed, so that a draft keeps them with all else. */
const linesKey = (part: string): string => `${linesPlace(part)}:lines`;

/** The lines of a part as they were typed; one that is empty is there at first, where some are needed. */
export function typedLines(typed: Typed, { id, least = 0 }: Pick<FormLines, 'id' | 'least'>): Typed[] {
  const kept = typed[linesKey(id)];
  return kept === undefined ? Array.from({ length: least }, () => ({})) : (JSON.parse(kept) as Typed[]);
}

export const withLines = (typed: Typed, part: string, lines: readonly Typed[]): Typed => ({
  ...typed,
  [linesKey(part)]: JSON.stringify(lines),
});

/** Lines as they are sent: what was typed in each, read by its columns. */
function linesOfPart(form: FormInfo, part: FormLines, typed: Typed): Record<string, unknown>[] {
  const { columns } = form.lines[part.id]!;
  return typedLines(typed, part).map((line) =>
    Object.fromEntries(
      part.inputs.flatMap(({ column: name }) => {
        const column = columns.find((each) => each.name === name);
        return column ? [[name, fromPlain(column, line[name] ?? '')] as const] : [];
      }),
    ),
  );
}

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
  const lines = linesOf({ steps: state.steps }).map((part) =>
    linesFaults(part.id, linesState(part, form.lines[part.id]!.columns, linesOfPart(form, part, typed))),
  );
  return { ...state, faults: Object.assign({}, state.faults, Object.fromEntries(asked), ...lines) as typeof faults };
}

/** What is sent of what was typed: what is asked now. */
export const valuesToSend = (form: FormInfo, { asked }: FormState, typed: Typed): Record<string, unknown> =>
  Object.fromEntries(
    form.columns
      .filter(({ name }) => asked.has(name))
      .map((column) => [column.name, fromPlain(column, typed[column.name] ?? '')]),
  );

/** The lines that are sent, by their part. */
export const linesToSend = (
  form: FormInfo,
  { steps }: FormState,
  typed: Typed,
): Record<string, Record<string, unknown>[]> =>
  Object.fromEntries(linesOf({ steps }).map((part) => [part.id, linesOfPart(form, part, typed)]));

/** Whether what is wrong is said at a part of a form. */
export function isAt(part: FormPart, place: string): boolean {
  if (part.kind === 'input') return part.column === place;
  return part.kind === 'lines' && (place === linesPlace(part.id) || place.startsWith(`${linesPlace(part.id)}.`));
}
