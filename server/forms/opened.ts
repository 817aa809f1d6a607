import { constantValue, isConstant } from '../../core/condition/operand-value';
import { moveBy } from '../../core/condition/interval';
import { evaluate } from '../../core/condition/evaluate';
import { pathsOf, unshifted, type Condition, type Operand } from '../../core/condition/tree';
import { recordConditionProblem } from '../../core/form/form-conditions';
import { factsOf, fromOf, inputsOf, isThis, type Form, type FormValue } from '../../core/definition/form';
import { printPath } from '../../core/definition/path';
import { findTable, type Table } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { at, keyOfRecord, NotFound, read, viewSql, type OpenRecord, type PlacedVisit } from '../gate/gate';

/** The record that a form is opened with, as whoever fills it in has it. */
export interface Opened {
  visit: PlacedVisit;
  table: Table;
  id: string;
  record: OpenRecord;
}

/** Reads what a form needs of the record that it is opened with. Throws NotFound where the person doesn't see it. */
export async function openWith(asking: PlacedVisit, form: Form, id: string): Promise<Opened> {
  const from = fromOf(form);
  if (from === null) throw new NotFound('form');
  const visit = await at(asking, from);
  const table = findTable(visit.catalogue, from);
  if (!table) throw new NotFound('form');
  const paths = [
    ...factsOf(form).flatMap(({ of, path }) => (of === 'record' ? [path] : [])),
    ...valuesOf(form).flatMap(pathOf),
    ...conditionsOf(form).flatMap(pathsOf),
    ...(form.changes ? inputsOf(form).map(({ column }) => [column]) : []),
    ...Object.keys(form.changes ? (form.fills ?? {}) : {}).map((column) => [column]),
  ];
  // No paths would be all that they see; the key alone says that they see it.
  const record = await read(visit.source, visit, from, id, paths.length > 0 ? paths : [table.key.slice(0, 1)]);
  return { visit, table, id, record };
}

const conditionsOf = ({ steps }: Form): Condition[] =>
  steps.flatMap(({ ofRecord, parts }) => [ofRecord, ...parts.map((part) => part.ofRecord)]).filter((each) => !!each);

/**
 * Whether a condition holds of the record that a form is opened with, as whoever fills it in sees it; what is kept from
 * them is nothing to go by.
 */
export function holdsOf(where: Condition | undefined, opened: Opened | null): boolean {
  if (where === undefined) return true;
  if (!opened) return false;
  const { visit, table, record } = opened;
  const scope = { catalogue: visit.catalogue, table, member: true };
  if (recordConditionProblem(where, table, visit.catalogue) !== null) return false;
  const value = (path: readonly string[]): Value => {
    const text = printPath([...path]);
    return record.masked.includes(text) ? null : (record.values[text] ?? null);
  };
  return evaluate(where, scope, { value, exists: () => false }, viewSql(visit).context) === true;
}

const valuesOf = (form: Form): FormValue[] => [
  ...inputsOf(form).flatMap(({ first }) => first ?? []),
  ...Object.values(form.fills ?? {}),
];

const pathOf = (value: FormValue): string[][] => {
  const plain = isThis(value) ? null : unshifted(value);
  return plain?.kind === 'column' ? [plain.path] : [];
};

/**
 * The value that stands in a column of a form's table at first, or is put in unseen; undefined where it can't be told:
 * what it goes by is not there, or is kept from whoever fills the form in.
 */
export function valueFor(
  visit: PlacedVisit,
  { table, column }: { table: Table; column: string },
  value: FormValue,
  opened: Opened | null,
): Value | undefined {
  if (isThis(value)) return opened ? leadingTo(table, column, opened) : undefined;
  if (isConstant(value)) return constantValue(value, viewSql(visit).context);
  return opened ? columnValue(opened, value) : undefined;
}

function columnValue({ record }: Opened, operand: Operand): Value | undefined {
  const plain = unshifted(operand);
  const path = plain.kind === 'column' ? printPath(plain.path) : '';
  const value = record.masked.includes(path) ? undefined : record.values[path];
  if (operand.kind !== 'shifted' || value === undefined || value === null) return value;
  return moveBy(String(value), operand.count, operand.unit);
}

/** What a relation to the record holds: a part of its key. */
function leadingTo(table: Table, column: string, { table: from, id }: Opened): Value | undefined {
  const relation = table.relations.find((each) => each.column === column && each.table === from.name);
  const place = relation ? from.key.indexOf(relation.targetColumn) : -1;
  return place < 0 ? undefined : keyOfRecord(from, id)?.[place];
}
