import { formState, type FormState } from '../../core/form/form-state';
import { parseValue, type Row } from '../../core/table/value';
import { BadQuestion, InvalidValues } from '../gate/gate';
import { tableOfForm, type FormTold } from './form-told';

/**
 * What was entered, as the form takes it: what is not asked is left out, whoever sent it. Throws InvalidValues with
 * every fault, by column.
 */
export function readEntered(told: FormTold, sent: Record<string, unknown>): FormState {
  const stray = Object.keys(sent).filter((column) => !told.columns.some(({ name }) => name === column));
  if (stray.length > 0)
    throw new BadQuestion(`This form doesn't ask for ${stray.join(', ')}. Load the page again; it has been changed.`);
  const entered: Row = {};
  const faults: Record<string, string> = {};
  for (const column of told.columns) {
    const parsed = parseValue({ ...column, nullable: true }, sent[column.name] ?? null);
    if (parsed.ok) entered[column.name] = parsed.value;
    else faults[column.name] = parsed.problem;
  }
  const state = formState(told, tableOfForm(told), entered, told);
  const asked = Object.entries({ ...state.faults, ...faults }).filter(([column]) => state.asked.has(column));
  if (asked.length > 0) throw new InvalidValues(Object.fromEntries(asked));
  return state;
}
