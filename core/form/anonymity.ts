import { unshifted, type Operand } from '../condition/tree';
import { followingOn } from '../definition/action';
import type { PortalDefinition } from '../definition/definition';
import { inputsOf, linesOf, type Form, type FormValue } from '../definition/form';
import { findColumn, type Table } from '../table/catalogue';

/** Whether a value tells who somebody is, or when something is done. */
const tells = (value: FormValue | Operand): boolean =>
  value.kind !== 'this' && ['member', 'clock'].includes(unshifted(value).kind);

/**
 * Why what is sent by an anonymous form would tell who sent it, or when; null where it does not. A form of which that
 * can't be said is not there.
 */
export function anonymityProblem(definition: PortalDefinition, table: Table, form: Form): string | null {
  if (form.changes) return 'it changes a record, and whoever knew it before sees what changed';
  if (linesOf(form).length > 0)
    return 'lines are sent with it, which lie elsewhere and may tell who sent them, or when';
  const key = table.key.map((name) => findColumn(table, name));
  if (key.length === 0) return 'its records have no key, so they lie in the order in which they came';
  if (key.some((column) => !column || column.automatic || column.type !== 'text'))
    return 'its key counts up, which tells the order in which they came; give the table random ids';
  const asked = new Set(inputsOf(form).map(({ column }) => column));
  const noted = table.columns.find(({ name, defaultTells }) => defaultTells === true && !asked.has(name));
  if (noted) return `what the database puts into ${noted.name} by itself tells when one was made, or by whom`;
  const stamp = (definition.stamps ?? []).find(
    (each) => each.table === table.name && each.on !== 'change' && tells(each.value),
  );
  if (stamp) return `a stamp notes in ${stamp.column} who made it, or when`;
  const fill = Object.entries(form.fills ?? {}).find(([, value]) => tells(value));
  if (fill) return `it fills ${fill[0]} with who sent it, or when`;
  const first = inputsOf(form).find((input) => input.first && tells(input.first));
  if (first) return `${first.column} is filled at first with who sends it, or when`;
  const signed = inputsOf(form).find((input) => input.signed);
  if (signed) return `${signed.column} comes from a link, which tells to whom it was given`;
  const file = [...asked].find((name) => ['file', 'picture'].includes(findColumn(table, name)?.kind ?? ''));
  if (file) return `a file in ${file} may tell where it was taken, and by what`;
  if (followingOn(definition, table.name).some(({ on }) => on?.what === 'made'))
    return 'an action follows by itself when one is made, and what leaves by it is kept with its moment';
  if (form.corrects) return 'what was sent can be corrected, and for that is kept when it was';
  if (form.oneEach) return 'everybody can send it once, and for that is kept who did';
  return null;
}
