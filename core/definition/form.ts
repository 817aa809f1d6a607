import type { Condition, Operand } from '../condition/tree';

/**
 * What stands in an input at first, or is put in unseen: a constant, a fact of whoever fills it in, the clock, a column
 * of the record that the form is opened with, or that record itself.
 */
export type FormValue = Exclude<Operand, { kind: 'record' }> | { kind: 'this' };

/** When something of a form is there: always where nothing is said. */
interface AtTimes {
  /** Where this holds of what was entered, or of whoever fills it in. */
  when?: Condition;
  /** Where this holds of the record that the form is opened with, as whoever fills it in sees it. */
  ofRecord?: Condition;
}

/** A column as an input. */
export interface FormInput extends AtTimes {
  kind: 'input';
  column: string;
  /** What it is called in this form; as everywhere when absent. */
  label?: string;
  hint?: string;
  required?: true;
  first?: FormValue;
  /** What stands there is what a signed link says, and can't be changed; without one the form isn't sent. */
  signed?: true;
}

/** Words between inputs, in Markdown. */
interface FormWords extends AtTimes {
  kind: 'words';
  text: string;
}

/** Something that is known already: of the record that the form is opened with, or of whoever fills it in. */
export interface FormFact extends AtTimes {
  kind: 'fact';
  of: 'record' | 'member';
  /** Of a member the roster and its column. */
  path: string[];
  label?: string;
}

/** Records of another table that are sent with the form's own, to which each leads. */
export interface FormLines extends AtTimes {
  kind: 'lines';
  id: string;
  table: string;
  /** The column of that table that leads to the form's record. */
  by: string;
  /** What they are called; as their table when absent. */
  label?: string;
  inputs: LineInput[];
  least?: number;
  most?: number;
}

interface LineInput {
  column: string;
  label?: string;
  required?: true;
}

export type FormPart = FormInput | FormWords | FormFact | FormLines;

/** One step of a form; of several one is shown after another. */
export interface FormStep extends AtTimes {
  id: string;
  title: string;
  /** How many inputs stand side by side where there is room; one when absent. */
  across?: 2 | 3;
  parts: FormPart[];
}

/** What holds of inputs where a condition does: it needs a value, or may not have the one that it has. */
export interface FormRule {
  id: string;
  does: 'required' | 'refused';
  columns: string[];
  when?: Condition;
  message?: string;
}

/**
 * What is laid out for making a record of a table, or for changing one, in steps. It is no right: what it sends goes
 * through the grants, and what it puts in unseen is reckoned by the server.
 */
export interface Form {
  id: string;
  title: string;
  table: string;
  /** The table of the record that it is opened with; without one it is not there. */
  from?: string;
  /** It changes the record that it is opened with, in place of making one. */
  changes?: true;
  steps: FormStep[];
  rules?: FormRule[];
  /** Columns that are filled without being asked. */
  fills?: Record<string, FormValue>;
  /** What its button says. */
  send?: string;
  /** What is said once it is sent, in Markdown. */
  says?: string;
  /** Where whoever sent it is led; they stay, and read what is said, when absent. */
  then?: { page: string };
  /** What was sent may be corrected by whoever sent it, until they leave. */
  corrects?: true;
  /** The last day on which it can be sent, in the portal's time zone. */
  closes?: string;
  /** So often it can be sent in all. */
  most?: number;
  /** Once by each person. */
  oneEach?: true;
  /** Nothing is kept of who sent it, or when. */
  anonymous?: true;
}

interface InSteps {
  steps: readonly Pick<FormStep, 'parts'>[];
}

export const inputsOf = ({ steps }: InSteps): FormInput[] =>
  steps.flatMap(({ parts }) => parts.filter((part): part is FormInput => part.kind === 'input'));

export const linesOf = ({ steps }: InSteps): FormLines[] =>
  steps.flatMap(({ parts }) => parts.filter((part): part is FormLines => part.kind === 'lines'));

export const factsOf = ({ steps }: InSteps): FormFact[] =>
  steps.flatMap(({ parts }) => parts.filter((part): part is FormFact => part.kind === 'fact'));

/** What a value is put in by: an operand, or the record that the form is opened with. */
export const isThis = (value: FormValue): value is { kind: 'this' } => value.kind === 'this';

/** The table of the record that a form is opened with; null where it is opened as it is. */
export const fromOf = ({ from, changes, table }: Pick<Form, 'from' | 'changes' | 'table'>): string | null =>
  from ?? (changes ? table : null);
