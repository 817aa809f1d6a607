import { fromOf, type Form } from '../../core/definition/form';
import { printPath } from '../../core/definition/path';
import { Problem } from '../../core/refusals/problem';
import { findTable } from '../../core/table/catalogue';
import { sameValue, type Row } from '../../core/table/value';
import { at, createCorrectable, edit, NotFound, Refused, type Changes, type Correctable } from '../gate/gate';
import { keepsNothing } from '../leaving/keep-history';
import type { PortalVisit } from '../visits/member-visit';
import { toldForm, type FormTold } from './form-told';
import { openWith, valueFor, type Opened } from './opened';
import { readEntered, type SentValues } from './read-entered';
import { inPlace, whySentEnough } from './sent-enough';
import { toldPlainly } from './told-to-visitors';

/** What came of sending a form. */
export interface SentForm {
  id: string | null;
  /** What is said to whoever sent it. */
  says: string | null;
  correctable: Correctable | null;
}

/** A form as it is sent: what was entered, the record that it was opened with, and what was shown of it then. */
export interface SentWhole extends SentValues {
  record?: string;
  seen?: Record<string, unknown>;
}

const noForm = () => new NotFound('form');

interface FormNow {
  visit: PortalVisit;
  told: FormTold;
  opened: Opened | null;
}

/** Of what is anonymous nothing leaves and no history is kept: both are kept with their moment. */
const untold = ({ leaver: _leaver, ...others }: PortalVisit): PortalVisit => ({ ...others, history: keepsNothing });

/** The form at the source of its table, as it is for whoever sends it now. */
export async function formNow(
  asking: PortalVisit,
  form: Form,
  record: string | undefined,
  leads?: ReadonlySet<string>,
): Promise<FormNow> {
  const visit = await at(form.anonymous ? untold(asking) : asking, form.table);
  if ((record === undefined) !== (fromOf(form) === null)) throw noForm();
  const opened = record === undefined ? null : await openWith(asking, form, record);
  const told = await (opened || leads ? toldForm(visit, form, leads ?? new Set(), opened) : toldPlainly(visit, form));
  if (!told) throw noForm();
  return { visit, told, opened };
}

/** What is put in unseen. Throws Refused where that can't be told. */
function filled({ visit, opened }: FormNow, { fills = {}, table: name }: Form): Row {
  const table = findTable(visit.catalogue, name)!;
  return Object.fromEntries(
    Object.entries(fills).map(([column, value]) => {
      const put = valueFor(visit, { table, column }, value, opened);
      if (put === undefined)
        throw new Refused("This can't be sent by you: it goes by something that you are not shown.");
      return [column, put];
    }),
  );
}

const withoutEmpty = (values: Row): Row =>
  Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null && value !== ''));

/** Makes a record of what was entered, or changes the one that the form was opened with, as whoever sends it may. */
export async function sendForm(asking: PortalVisit, form: Form, sent: SentWhole, trial: boolean): Promise<SentForm> {
  const now = await formNow(asking, form, sent.record);
  const { visit, told, opened } = now;
  const closed = told.closed ?? (await whySentEnough(visit, form));
  if (closed !== null) throw new Problem(409, 'form-closed', closed);
  const { values, lines } = readEntered(told, sent);
  if (form.changes) {
    const changes = changesOf(opened!, { values, fills: filled(now, form), seen: sent.seen ?? {} });
    const change = () => edit(visit.source, visit, form.table, opened!.id, changes, { trial });
    await (trial ? change() : inPlace(visit, form, change));
    return { id: opened!.id, says: form.says ?? null, correctable: null };
  }
  const whole = { ...withoutEmpty(values), ...filled(now, form) };
  const newLines = lines.map(({ part: { id: part, table, by }, rows }) => ({ part, table, by, rows }));
  const make = () =>
    createCorrectable(visit.source, visit, form.table, whole, { trial, lines: newLines, by: { form: form.id } });
  const { made, correctable } = trial ? await make() : await inPlace(visit, form, make);
  return { id: made.id, says: form.says ?? null, correctable: told.corrects ? correctable : null };
}

/** What is another than it was shown; what is not asked keeps what was there. */
function changesOf(
  { record }: Opened,
  { values, fills, seen }: { values: Row; fills: Row; seen: Record<string, unknown> },
): Changes {
  const stood = (column: string) => record.values[printPath([column])] ?? null;
  const entered = Object.entries(values).flatMap(([column, to]): [string, Changes[string]][] => {
    const from = Object.hasOwn(seen, column) ? (seen[column] as Row[string]) : stood(column);
    return sameValue(from, to) ? [] : [[column, { from, to }]];
  });
  const put = Object.entries(fills).map(([column, to]): [string, Changes[string]] => [
    column,
    { from: stood(column), to },
  ]);
  return Object.fromEntries([...entered, ...put]);
}

/** What is written over what was sent: of what is not asked any more nothing stays. */
export async function correction(
  asking: PortalVisit,
  form: Form,
  { values: sent, record }: SentWhole,
): Promise<{ visit: PortalVisit; values: Row }> {
  const { visit, told } = await formNow(asking, form, record);
  const { values } = readEntered(told, { values: sent });
  return {
    visit,
    values: Object.fromEntries(
      told.columns.flatMap(({ name, nullable }) =>
        nullable || Object.hasOwn(values, name) ? [[name, values[name] ?? null] as const] : [],
      ),
    ),
  };
}
