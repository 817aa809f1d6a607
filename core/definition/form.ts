import type { Condition, Operand } from '../condition/tree';

/** What stands in an input at first, or is put in unseen: a constant, a fact of whoever fills it in, or the clock. */
type FormValue = Exclude<Operand, { kind: 'record' | 'column' }>;

/** A column as an input. */
export interface FormInput {
  kind: 'input';
  column: string;
  /** What it is called in this form; as everywhere when absent. */
  label?: string;
  hint?: string;
  required?: true;
  /** Shown where this holds of what was entered, or of whoever fills it in; always when absent. */
  when?: Condition;
  first?: FormValue;
}

/** Words between inputs, in Markdown. */
interface FormWords {
  kind: 'words';
  text: string;
  when?: Condition;
}

export type FormPart = FormInput | FormWords;

/** One step of a form; of several one is shown after another. */
export interface FormStep {
  id: string;
  title: string;
  when?: Condition;
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
 * What is laid out for making a record of a table, in steps. It is no right: what it sends goes through the grants, and
 * what it puts in unseen is reckoned by the server.
 */
export interface Form {
  id: string;
  title: string;
  table: string;
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

export const inputsOf = ({ steps }: Pick<Form, 'steps'>): FormInput[] =>
  steps.flatMap(({ parts }) => parts.filter((part): part is FormInput => part.kind === 'input'));
