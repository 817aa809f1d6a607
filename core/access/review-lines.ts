import type { PortalDefinition } from '../definition/definition';
import { maskLabel } from '../mask/mask';
import type { Catalogue, Table } from '../table/catalogue';
import { sayHung } from './hung-rights';
import { lensesOf, type Lens } from './lens';
import { rolesOf, type KnownPerson } from './people';
import { rowsOf } from './who';

/** What a role may do on a table, as one reads it who signs that it is right. */
export interface ReviewedRights {
  /** In which rows, as a sentence. */
  rows: string;
  whole: string[];
  masked: { column: string; mask: string }[];
  changes: string[];
  fills: string[];
  deletes: boolean;
  exports: boolean;
  /** Moves and actions, by their names. */
  does: string[];
  comments: string[];
  files: string[];
  history: boolean;
}

/** One thing to be signed: what a role may do on a table, or who has the role. */
export type ReviewLine =
  | { kind: 'rights'; role: string; table: string; rights: ReviewedRights }
  | { kind: 'people'; role: string; people: number[] };

/** All that is to be signed: each role with its people, then with each table of which it has something. */
export function reviewLines(
  definition: PortalDefinition,
  catalogue: Catalogue,
  people: readonly KnownPerson[],
): ReviewLine[] {
  const having = new Map<string, number[]>();
  for (const person of people)
    for (const role of rolesOf(definition, catalogue, person))
      if (person.id !== null) having.set(role, [...(having.get(role) ?? []), person.id]);
  return definition.roles.flatMap(({ id: role, for: whom }): ReviewLine[] => {
    const isMembers = whom === undefined || whom === 'members';
    const ids = [...new Set(having.get(role) ?? [])].toSorted((a, b) => a - b);
    return [
      ...(isMembers ? [{ kind: 'people' as const, role, people: ids }] : []),
      ...catalogue.tables.flatMap((table): ReviewLine[] => {
        const lenses = lensesOf(definition, catalogue, table, role);
        return lenses.length === 0
          ? []
          : [{ kind: 'rights', role, table: table.name, rights: rightsOf(table, lenses) }];
      }),
    ];
  });
}

function rightsOf(table: Table, lenses: readonly Lens[]): ReviewedRights {
  const names = table.columns.map((column) => column.name);
  const of = (has: (lens: Lens, column: string) => boolean | undefined) =>
    names.filter((column) => lenses.some((lens) => has(lens, column)));
  const whole = of((lens, column) => lens.columns.get(column)?.level === 'shown');
  const masked = names.flatMap((column) => {
    const found = lenses.map((lens) => lens.columns.get(column)).find((openness) => openness?.level === 'masked');
    return found?.level === 'masked' && !whole.includes(column) ? [{ column, mask: maskLabel(found.mask) }] : [];
  });
  return {
    rows: rowsOf(lenses),
    whole,
    masked,
    changes: of((lens, column) => lens.edit?.columns.has(column)),
    fills: of((lens, column) => lens.create?.columns.has(column)),
    deletes: lenses.some((lens) => lens.remove !== null),
    exports: lenses.some((lens) => lens.export !== null),
    does: [
      ...new Set(
        lenses.flatMap((lens) => [
          ...(lens.moves?.moves ?? []).map((move) => move.name),
          ...lens.actions.map(({ action }) => action.name),
        ]),
      ),
    ],
    comments: sayHung('comments', lenses),
    files: sayHung('files', lenses),
    history: lenses.some((lens) => lens.history),
  };
}

/** What tells one line from another of the same review. */
export const lineKey = (line: ReviewLine): string =>
  line.kind === 'people' ? `people/${line.role}` : `rights/${line.role}/${line.table}`;
