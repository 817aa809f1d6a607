import type { PortalDefinition } from '../../../core/definition/definition';
import {
  fromOf,
  inputsOf,
  linesOf,
  type Form,
  type FormFact,
  type FormLines,
  type FormPart,
  type FormStep,
} from '../../../core/definition/form';
import { freeId } from '../../../core/definition/free-id';
import { printPath } from '../../../core/definition/path';
import { findTable, isClosed, type Catalogue, type Table } from '../../../core/table/catalogue';
import { columnChoices, factChoices } from '../access/choices';

export type ChangeForm = (label: string, recipe: (form: Form) => void) => Promise<string | null>;

/**
 * Columns that some role may fill in a new record, or change in one, in the table's order; of one role where it is
 * named.
 */
export function fillable(
  draft: PortalDefinition,
  table: Table,
  { role = null, changes = false }: { role?: string | null; changes?: boolean } = {},
): string[] {
  const grants = Object.entries(draft.access[table.name] ?? {}).filter(([id]) => role === null || id === role);
  const filled = new Set(grants.flatMap(([, grant]) => (changes ? grant.edit : grant.create)?.columns ?? []));
  return table.columns
    .filter(({ name, automatic }) => filled.has(name) && !automatic && !isClosed(table, name))
    .map(({ name }) => name);
}

/** The roles that may make records of a table, or change some. */
export const makersOf = ({ roles, access }: PortalDefinition, table: string, changes: boolean): string[] =>
  roles
    .map(({ id }) => id)
    .filter((id) => {
      const grant = access[table]?.[id];
      return changes ? (grant?.edit?.columns.length ?? 0) > 0 : grant?.create !== undefined;
    });

/** A form of all that a role may fill in a new record, or change in one, in one step. */
export function formOf(
  draft: PortalDefinition,
  table: Table,
  called: string,
  { role, changes }: { role: string; changes: boolean },
): Form {
  const all = draft.forms ?? [];
  return {
    id: freeId(`${table.name}-form`, all),
    title: called,
    table: table.name,
    ...(changes ? { changes: true as const } : {}),
    steps: [
      {
        id: 'first',
        title: called,
        parts: fillable(draft, table, { role, changes }).map((column): FormPart => ({ kind: 'input', column })),
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

/** What can be read in a form: of the record that it is opened with, and of whoever fills it in. */
export function factChoicesOf(
  draft: PortalDefinition,
  catalogue: Catalogue,
  form: Form,
): { key: string; of: FormFact['of']; path: string[] }[] {
  const from = fromOf(form);
  const table = from === null ? undefined : findTable(catalogue, from);
  const ofRecord = table ? columnChoices(catalogue, table).map(({ path }) => ({ of: 'record' as const, path })) : [];
  const ofMember = factChoices(draft, catalogue).flatMap(({ operand }) =>
    operand.kind === 'member' && operand.fact.length === 2 ? [{ of: 'member' as const, path: operand.fact }] : [],
  );
  return [...ofRecord, ...ofMember].map((each) => ({ ...each, key: `${each.of} ${printPath(each.path)}` }));
}

/** The tables whose records may be sent with a form's own, each with the column that leads to it. */
export const lineChoices = (
  draft: PortalDefinition,
  catalogue: Catalogue,
  form: Form,
): { table: Table; by: string }[] =>
  catalogue.tables.flatMap((table) => {
    const relation = table.relations.find((each) => each.table === form.table);
    const isFilled = relation && fillable(draft, table).includes(relation.column);
    return isFilled ? [{ table, by: relation.column }] : [];
  });

/** Lines of a table with all that may be filled in them. */
export function newLines(draft: PortalDefinition, form: Form, { table, by }: { table: Table; by: string }): FormLines {
  const columns = fillable(draft, table).filter((column) => column !== by);
  return {
    kind: 'lines',
    id: freeId(table.name, linesOf(form)),
    table: table.name,
    by,
    inputs: columns.slice(0, 3).map((column) => ({ column })),
    least: 1,
  };
}
