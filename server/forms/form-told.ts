import { tableRights } from '../../core/access/rights';
import { neededColumns } from '../../core/access/view';
import { constantValue } from '../../core/condition/operand-value';
import { pathsOf } from '../../core/condition/tree';
import { inputsOf, type Form, type FormPart, type FormRule } from '../../core/definition/form';
import { anonymityProblem } from '../../core/form/anonymity';
import { askedTable, formConditionProblem, formFor } from '../../core/form/form-conditions';
import { findColumn, findTable, type Column, type Table } from '../../core/table/catalogue';
import type { Row } from '../../core/table/value';
import type { ColumnInfo } from '../columns/column-info';
import { inputInfo } from '../columns/input-info';
import { isTold } from '../columns/told-constant';
import { viewSql, type PlacedVisit } from '../gate/gate';

/** A form as somebody gets it who may send it: with it the browser works out what is asked, as the server does. */
export interface FormTold extends Pick<Form, 'steps' | 'rules'> {
  title: string;
  table: string;
  /** Of its inputs' columns what they take. */
  columns: Column[];
  /** The same as their inputs need it. */
  inputs: ColumnInfo[];
  first: Row;
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

/** What the form of a table is for somebody: null where they may make no record of it, or the table is gone. */
export function toldForm(visit: PlacedVisit, form: Form, leads: ReadonlySet<string>): FormTold | null {
  const { definition, catalogue, person, moment } = visit;
  const table = findTable(catalogue, form.table);
  const view = viewSql(visit);
  const rights = table && tableRights(view.view(table));
  if (!table || !rights?.fills) return null;
  // It is there only as long as it is what it says.
  if (form.anonymous && anonymityProblem(definition, table, form) !== null) return null;
  const { timeZone } = definition.portal;
  const needed = new Set(neededColumns(table).filter((column) => !rights.stamps(column)));
  // What they may not fill is not asked: it could only be refused. What is filled unseen is the server's alone.
  const asked = (column: string) =>
    rights.fills!.has(column) && findColumn(table, column) !== undefined && !Object.hasOwn(form.fills ?? {}, column);
  const isAsked = (part: FormPart) => part.kind === 'words' || asked(part.column);
  const theirs = { ...form, steps: form.steps.map((step) => ({ ...step, parts: step.parts.filter(isAsked) })) };
  const entered = askedTable(table, theirs);
  const own = formFor(theirs, entered, { person, moment, timeZone, catalogue });
  const steps = own.steps.map((step) => ({
    ...step,
    parts: step.parts.map((part) =>
      part.kind === 'input' && needed.has(part.column) ? { ...part, required: true as const } : part,
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
    steps: steps.map((step) => ({
      ...step,
      // What stands there at first is told by itself, as it is for this person.
      parts: step.parts.map((part) => {
        if (part.kind === 'words') return part;
        const { first: _first, ...rest } = part;
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
      inputs.flatMap(({ column, first }) =>
        first && isTold(first, view) ? [[column, constantValue(first, context)] as const] : [],
      ),
    ),
    today: context.today,
    now: context.now,
    send: form.send ?? 'Send',
    corrects: form.corrects === true,
    anonymous: form.anonymous === true,
    leads: form.then && leads.has(form.then.page) ? form.then.page : null,
    closed: form.closes !== undefined && form.closes < context.today ? 'This form is closed.' : null,
  };
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

/** Of a column only what its values are held against, and nothing of where they are. */
function plainColumn({
  name,
  type,
  nullable,
  maxLength,
  precision,
  scale,
  min,
  max,
  choices,
  kind,
  collation,
  read,
}: Column): Column {
  const own = { maxLength, precision, scale, min, max, choices, kind, collation, read };
  return {
    name,
    type,
    nullable,
    nativeType: '',
    hasDefault: false,
    automatic: false,
    unique: false,
    ...(Object.fromEntries(Object.entries(own).filter(([, value]) => value !== undefined)) as Partial<Column>),
  };
}

/** The table as a form's conditions speak of it. */
export const tableOfForm = ({ table, columns }: Pick<FormTold, 'table' | 'columns'>): Table => ({
  name: table,
  columns,
  key: [],
  relations: [],
});
