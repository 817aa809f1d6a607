import { formState, type FormState } from '../../core/form/form-state';
import { linesFaults, linesState } from '../../core/form/lines';
import { linesOf, type FormLines } from '../../core/definition/form';
import { parseValue, type Row } from '../../core/table/value';
import { BadQuestion, InvalidValues } from '../gate/gate';
import { tableOfForm, type FormTold } from './form-told';

/** What was sent of a form: by column, and by the ids of its lines. */
export interface SentValues {
  values: Record<string, unknown>;
  lines?: Record<string, Record<string, unknown>[]>;
}

/** A form with what was entered, and its lines. */
export interface Entered extends FormState {
  lines: { part: FormLines; rows: Row[] }[];
}

/**
 * What was entered, as the form takes it: what is not asked is left out, whoever sent it. Throws InvalidValues with
 * every fault, by column.
 */
export function readEntered(told: FormTold, { values: sent, lines: sentLines = {} }: SentValues): Entered {
  const stray = Object.keys(sent).filter((column) => !told.columns.some(({ name }) => name === column));
  const strayLines = Object.keys(sentLines).filter((id) => !Object.hasOwn(told.lines, id));
  if (stray.length > 0 || strayLines.length > 0)
    throw new BadQuestion(
      `This form doesn't ask for ${[...stray, ...strayLines].join(', ')}. Load the page again; it has been changed.`,
    );
  const entered: Row = {};
  const faults: Record<string, string> = {};
  for (const column of told.columns) {
    const parsed = parseValue({ ...column, nullable: true }, sent[column.name] ?? null);
    if (parsed.ok) entered[column.name] = parsed.value;
    else faults[column.name] = parsed.problem;
  }
  const state = formState(told, tableOfForm(told), entered, told);
  const lines = linesOf({ steps: state.steps }).map((part) => ({
    part,
    state: linesState(part, told.lines[part.id]!.columns, sentLines[part.id] ?? []),
  }));
  const asked = Object.entries({ ...state.faults, ...faults }).filter(([column]) => state.asked.has(column));
  const wrong = Object.assign({}, ...lines.map((each) => linesFaults(each.part.id, each.state))) as typeof faults;
  if (asked.length > 0 || Object.keys(wrong).length > 0)
    throw new InvalidValues({ ...Object.fromEntries(asked), ...wrong });
  return { ...state, lines: lines.map(({ part, state: { rows } }) => ({ part, rows })) };
}
