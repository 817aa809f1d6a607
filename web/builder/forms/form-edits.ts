import type { PortalDefinition } from '../../../core/definition/definition';
import { inputsOf, type Form, type FormPart, type FormStep } from '../../../core/definition/form';
import { freeId } from '../../../core/definition/free-id';
import { isClosed, type Table } from '../../../core/table/catalogue';

export type ChangeForm = (label: string, recipe: (form: Form) => void) => Promise<string | null>;

/** Columns that some role may fill in a new record, in the table's order; of one role where it is named. */
export function fillable(draft: PortalDefinition, table: Table, role: string | null = null): string[] {
  const grants = Object.entries(draft.access[table.name] ?? {}).filter(([id]) => role === null || id === role);
  const filled = new Set(grants.flatMap(([, grant]) => grant.create?.columns ?? []));
  return table.columns
    .filter(({ name, automatic }) => filled.has(name) && !automatic && !isClosed(table, name))
    .map(({ name }) => name);
}

/** The roles that may make records of a table. */
export const makersOf = ({ roles, access }: PortalDefinition, table: string): string[] =>
  roles.map(({ id }) => id).filter((id) => access[table]?.[id]?.create !== undefined);

/** A form of all that a role may fill, in one step. */
export function formOf(draft: PortalDefinition, table: Table, called: string, role: string): Form {
  const all = draft.forms ?? [];
  return {
    id: freeId(`${table.name}-form`, all),
    title: called,
    table: table.name,
    steps: [
      {
        id: 'first',
        title: called,
        parts: fillable(draft, table, role).map((column): FormPart => ({ kind: 'input', column })),
      },
    ],
  };
}

/** Columns that a form doesn't ask for yet. */
export const unasked = (form: Form, columns: readonly string[]): string[] => {
  const asked = new Set(inputsOf(form).map(({ column }) => column));
  return columns.filter((column) => !asked.has(column) && !Object.hasOwn(form.fills ?? {}, column));
};

/** Moves a part by one place; past its step's end into the next one, past its beginning into the one before. */
export function movePart(steps: FormStep[], at: number, part: number, by: 1 | -1): void {
  const from = steps[at]!.parts;
  const to = part + by;
  const [moved] = from.splice(part, 1);
  if (to >= 0 && to <= from.length) return void from.splice(to, 0, moved!);
  const other = steps[at + by]?.parts ?? from;
  if (by === 1) other.unshift(moved!);
  else other.push(moved!);
}
