import { audienceProblems, audienceScope } from '../access/audience';
import { contextOf, type Person } from '../access/person';
import { checkCondition } from '../condition/check';
import { evaluate } from '../condition/evaluate';
import { existsOf, pathsOf, type Condition } from '../condition/tree';
import { inputsOf, type Form, type FormPart, type FormRule, type FormStep } from '../definition/form';
import type { Catalogue, Table } from '../table/catalogue';

/** What the conditions of a form may speak of: what is entered in it, or what is known of whoever fills it in. */

/** Of a table alone, as the browser has it: what is entered has no relations yet. */
export const enteredScope = (table: Table) => {
  const alone: Table = { name: table.name, columns: table.columns, key: [], relations: [] };
  return { catalogue: { schema: '', tables: [alone] } satisfies Catalogue, table: alone, member: false };
};

/** The table as far as a form asks for it: what is not entered there, nothing can go by. */
export const askedTable = (table: Table, form: Pick<Form, 'steps'>): Table => {
  const asked = new Set(inputsOf(form).map(({ column }) => column));
  return { ...table, columns: table.columns.filter(({ name }) => asked.has(name)) };
};

const isOfPerson = (where: Condition): boolean => pathsOf(where).length === 0 && existsOf(where).length === 0;

/** Why a condition of a form can't be asked, in words; null when it can. */
export function formConditionProblem(where: Condition, table: Table, catalogue: Catalogue): string | null {
  if (isOfPerson(where)) return audienceProblems(where, catalogue)[0] ?? null;
  return checkCondition(where, enteredScope(table))[0]?.reason ?? null;
}

/** Why a condition on the record that a form is opened with can't be asked, in words; null when it can. */
export function recordConditionProblem(where: Condition, from: Table, catalogue: Catalogue): string | null {
  if (existsOf(where).length > 0) return 'it asks for other records, and only the one that it opens with is read';
  return checkCondition(where, { catalogue, table: from, member: true })[0]?.reason ?? null;
}

/** Who fills a form in, and when. */
export interface FillingIn {
  person: Person;
  moment: Date;
  timeZone: string;
  catalogue: Catalogue;
}

/** True or false where it is about the person, as it is about them; else the condition, for what is entered. */
function settled(where: Condition | undefined, table: Table, of: FillingIn): Condition | boolean {
  if (where === undefined) return true;
  // Whatever can't be asked doesn't hold: nothing is shown or asked by a guess.
  if (formConditionProblem(where, table, of.catalogue) !== null) return false;
  if (!isOfPerson(where)) return where;
  const none = { value: () => null, exists: () => false };
  const context = contextOf(of.person, of.moment, of.timeZone);
  return evaluate(where, audienceScope(of.catalogue), none, context) === true;
}

const kept = <T extends { when?: Condition }>(each: T, table: Table, of: FillingIn): T[] => {
  const { when, ...rest } = each;
  const now = settled(when, table, of);
  return now === false ? [] : [{ ...rest, ...(now === true ? {} : { when: now }) } as T];
};

/** A form as it is for one person: what is decided by who they are is decided, and of it nothing is told. */
export function formFor(form: Form, table: Table, of: FillingIn): Pick<Form, 'steps' | 'rules'> {
  return {
    steps: form.steps.flatMap((step) =>
      kept<FormStep>(step, table, of).map((own) => ({
        ...own,
        parts: own.parts.flatMap((part) => kept<FormPart>(part, table, of)),
      })),
    ),
    rules: (form.rules ?? []).flatMap((rule) => kept<FormRule>(rule, table, of)),
  };
}
