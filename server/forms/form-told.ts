import { tableRights, type TableRights } from '../../core/access/rights';
import { neededColumns } from '../../core/access/view';
import { pathsOf, unshifted } from '../../core/condition/tree';
import {
  fromOf,
  inputsOf,
  isThis,
  linesOf,
  type Form,
  type FormPart,
  type FormRule,
  type FormStep,
  type FormValue,
} from '../../core/definition/form';
import { printPath } from '../../core/definition/path';
import { anonymityProblem } from '../../core/form/anonymity';
import { askedTable, formConditionProblem, formFor } from '../../core/form/form-conditions';
import { findColumn, findTable, type Column, type Table } from '../../core/table/catalogue';
import type { Row, Value } from '../../core/table/value';
import type { ColumnInfo } from '../columns/column-info';
import { inputInfo } from '../columns/input-info';
import { isTold } from '../columns/told-constant';
import { viewSql, type PlacedVisit } from '../gate/gate';
import { factKey, factsTold, type FactTold } from './facts-told';
import { linesTold, theirLines, type LinesTold } from './lines-told';
import { holdsOf, valueFor, type Opened } from './opened';
import { plainColumn } from './plain-column';

/** A form as somebody gets it who may send it: with it the browser works out what is asked, as the server does. */
export interface FormTold extends Pick<Form, 'steps' | 'rules'> {
  title: string;
  table: string;
  /** Of its inputs' columns what they take. */
  columns: Column[];
  /** The same as their inputs need it. */
  inputs: ColumnInfo[];
  first: Row;
  /** What stands there to be read, by what `factKey` makes of it. */
  facts: Record<string, FactTold>;
  /** By the part's id, what its lines take. */
  lines: Record<string, LinesTold>;
  /** It changes the record that it is opened with. */
  changes: boolean;
  today: string;
  now: string;
  send: string;
  corrects: boolean;
  /** Nothing is kept of who sends it, or when. */
  anonymous: boolean;
  /** The page that it leads to; null where whoever sent it stays. */
  leads: string | null;
  /** Why it can't be sent now; null where it can. */
  closed: string | null;
}

/**
 * What the form of a table is for somebody: null where they may make no record of it, or not change the one that it is
 * opened with, or the table is gone.
 */
export async function toldForm(
  visit: PlacedVisit,
  form: Form,
  leads: ReadonlySet<string>,
  opened: Opened | null = null,
): Promise<FormTold | null> {
  const { definition, catalogue, person, moment } = visit;
  const table = findTable(catalogue, form.table);
  const view = viewSql(visit);
  const rights = table && tableRights(view.view(table));
  if (!table || !rights) return null;
  const open = openColumns(table, rights, form, opened);
  if (!open) return null;
  // It is there only as long as it is what it says.
  if (form.anonymous && anonymityProblem(definition, table, form) !== null) return null;
  const { timeZone } = definition.portal;
  // What they may not fill is not asked: it could only be refused. What is filled unseen is the server's alone.
  const asked = (column: string) =>
    open.fills.has(column) && findColumn(table, column) !== undefined && !Object.hasOwn(form.fills ?? {}, column);
  const facts = await factsTold(visit, form, opened);
  const theirPart = (part: FormPart): FormPart[] => {
    switch (part.kind) {
      case 'words':
        return [part];
      case 'input':
        return asked(part.column) ? [part] : [];
      case 'fact':
        return Object.hasOwn(facts, factKey(part)) ? [part] : [];
      case 'lines':
        return [theirLines(visit, form, part) ?? []].flat();
    }
  };
  const isThere = ({ ofRecord }: Pick<FormStep, 'ofRecord'>) => holdsOf(ofRecord, opened);
  const theirs = {
    ...form,
    steps: form.steps
      .filter(isThere)
      .map((step) => ({ ...step, parts: step.parts.filter(isThere).flatMap(theirPart) })),
  };
  const entered = askedTable(table, theirs);
  const own = formFor(theirs, entered, { person, moment, timeZone, catalogue });
  const steps = own.steps.map((step) => ({
    ...step,
    parts: step.parts.map((part) =>
      part.kind === 'input' && open.needed.has(part.column) ? { ...part, required: true as const } : part,
    ),
  }));
  const inputs = inputsOf({ steps });
  const { context } = view;
  const rules = [...(own.rules ?? []), ...rulesOfTable(visit, entered)];
  // With what conditions go by that is not asked of this person: of that nothing is entered.
  const whens = [...steps, ...steps.flatMap(({ parts }) => parts), ...rules].flatMap((each) => each.when ?? []);
  const known = new Set([...inputs.map(({ column }) => column), ...whens.flatMap(pathsOf).map(([column]) => column!)]);
  return {
    title: form.title,
    table: form.table,
    steps: steps.map(({ ofRecord: _settled, ...step }) => ({
      ...step,
      // What stands there at first is told by itself, as it is for this person.
      parts: step.parts.map((part) => {
        const { ofRecord: _settled, ...told } = part;
        if (told.kind !== 'input') return told;
        const { first: _first, ...rest } = told;
        return rest;
      }),
    })),
    rules,
    columns: entered.columns.filter(({ name }) => known.has(name)).map(plainColumn),
    inputs: inputs.flatMap(({ column, label }) => {
      const info = inputInfo(visit, form.table, column);
      return info ? [label === undefined ? info : { ...info, label }] : [];
    }),
    first: Object.fromEntries(
      inputs.flatMap(({ column, first }) => {
        const value = form.changes
          ? opened!.record.values[printPath([column])]
          : first && firstTold(visit, { table, column }, first, opened);
        return value === undefined ? [] : [[column, value] as const];
      }),
    ),
    facts,
    lines: linesTold(visit, { steps }),
    changes: form.changes === true,
    today: context.today,
    now: context.now,
    send: form.send ?? 'Send',
    // What is corrected is the record: lines stay as they were sent.
    corrects: form.corrects === true && linesOf(form).length === 0 && !form.changes,
    anonymous: form.anonymous === true,
    leads: form.then && leads.has(form.then.page) ? form.then.page : null,
    closed: form.closes !== undefined && form.closes < context.today ? 'This form is closed.' : null,
  };
}

interface OpenColumns {
  fills: ReadonlySet<string>;
  /** Of these something must be given. */
  needed: ReadonlySet<string>;
}

/** What of the form's table can be asked for; null where nothing can. */
function openColumns(table: Table, rights: TableRights, form: Form, opened: Opened | null): OpenColumns | null {
  if (form.changes) {
    if (opened?.table.name !== table.name) return null;
    const fills = new Set(table.columns.map(({ name }) => name).filter((name) => isEditable(opened, name)));
    return { fills, needed: new Set(table.columns.filter(({ nullable }) => !nullable).map(({ name }) => name)) };
  }
  if (!rights.fills || (fromOf(form) !== null && !opened)) return null;
  return {
    fills: rights.fills,
    needed: new Set(neededColumns(table).filter((column) => !rights.stamps(column))),
  };
}

const isEditable = ({ record }: Opened, column: string): boolean => record.editable.includes(printPath([column]));

function firstTold(
  visit: PlacedVisit,
  at: { table: Table; column: string },
  value: FormValue,
  opened: Opened | null,
): Value | undefined {
  const isOpen = isThis(value) || unshifted(value).kind === 'column' || isTold(value, viewSql(visit));
  return isOpen ? valueFor(visit, at, value, opened) : undefined;
}

/** What the table asks of a new record wherever it is made, as far as it is about what is entered here alone. */
function rulesOfTable({ definition, catalogue }: PlacedVisit, entered: Table): FormRule[] {
  const { name } = entered;
  const rules = Object.hasOwn(definition.tables, name) ? (definition.tables[name]!.rules ?? []) : [];
  return rules.flatMap(({ id, does, columns, when, message }): FormRule[] => {
    if (does === 'kept' || !columns.some((column) => findColumn(entered, column))) return [];
    // What goes by more than is entered is for the server alone to tell.
    if (when && (pathsOf(when).length === 0 || formConditionProblem(when, entered, catalogue) !== null)) return [];
    return [{ id: `~${id}`, does, columns, ...(when ? { when } : {}), ...(message === undefined ? {} : { message }) }];
  });
}

/** The table as a form's conditions speak of it. */
export const tableOfForm = ({ table, columns }: Pick<FormTold, 'table' | 'columns'>): Table => ({
  name: table,
  columns,
  key: [],
  relations: [],
});
