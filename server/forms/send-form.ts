import { constantValue, isConstant } from '../../core/condition/operand-value';
import type { Form } from '../../core/definition/form';
import { Problem } from '../../core/refusals/problem';
import type { Row } from '../../core/table/value';
import { at, createCorrectable, NotFound, viewSql, type Correctable } from '../gate/gate';
import { inPlace, whySentEnough } from './sent-enough';
import type { PortalVisit } from '../visits/member-visit';
import { toldForm, type FormTold } from './form-told';
import { readEntered } from './read-entered';

/** What came of sending a form. */
export interface SentForm {
  id: string | null;
  /** What is said to whoever sent it. */
  says: string | null;
  correctable: Correctable | null;
}

const noForm = () => new NotFound('form');

/** The form at the source of its table, as it is for whoever sends it now. */
async function formNow(asking: PortalVisit, form: Form): Promise<{ visit: PortalVisit; told: FormTold }> {
  const { leaver: _leaver, ...unseen } = asking;
  // Of what is anonymous nothing leaves: what does is kept with its moment.
  const visit = await at(form.anonymous ? unseen : asking, form.table);
  const told = toldForm(visit, form, new Set());
  if (!told) throw noForm();
  return { visit, told };
}

/** What is put in unseen. */
function filled(visit: PortalVisit, { fills = {} }: Form): Row {
  const { context } = viewSql(visit);
  return Object.fromEntries(
    Object.entries(fills).flatMap(([column, value]) =>
      isConstant(value) ? [[column, constantValue(value, context)] as const] : [],
    ),
  );
}

const withoutEmpty = (values: Row): Row =>
  Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null && value !== ''));

/** Makes a record of what was entered, as whoever sends it may. */
export async function sendForm(
  asking: PortalVisit,
  form: Form,
  sent: Record<string, unknown>,
  trial: boolean,
): Promise<SentForm> {
  const { visit, told } = await formNow(asking, form);
  const closed = told.closed ?? (await whySentEnough(visit, form));
  if (closed !== null) throw new Problem(409, 'form-closed', closed);
  const { values } = readEntered(told, sent);
  const whole = { ...withoutEmpty(values), ...filled(visit, form) };
  const make = () => createCorrectable(visit.source, visit, form.table, whole, { trial });
  const { made, correctable } = trial ? await make() : await inPlace(visit, form, make);
  return { id: made.id, says: form.says ?? null, correctable: form.corrects ? correctable : null };
}

/** What is written over what was sent: of what is not asked any more nothing stays. */
export async function correction(
  asking: PortalVisit,
  form: Form,
  sent: Record<string, unknown>,
): Promise<{ visit: PortalVisit; values: Row }> {
  const { visit, told } = await formNow(asking, form);
  const { values } = readEntered(told, sent);
  return {
    visit,
    values: Object.fromEntries(
      told.columns.flatMap(({ name, nullable }) =>
        nullable || Object.hasOwn(values, name) ? [[name, values[name] ?? null] as const] : [],
      ),
    ),
  };
}
