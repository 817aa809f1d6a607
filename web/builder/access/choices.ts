import type { CompareCondition, Operand } from '../../../core/condition/tree';
import type { PortalDefinition } from '../../../core/definition/definition';
import { findTable, isClosed, type Catalogue, type Column, type Table } from '../../../core/table/catalogue';

interface ColumnChoice {
  path: string[];
  column: Column;
  /** The table that it is of. */
  at: Table;
}

/** Columns that a condition on the table may speak of: its own, and those one or two to-one relations away. */
export function columnChoices(catalogue: Catalogue, table: Table): ColumnChoice[] {
  const own = (at: Table, before: string[]) =>
    at.columns
      .filter((column) => column.type !== 'other' && !isClosed(at, column.name))
      .map((column) => ({ path: [...before, column.name], column, at }));
  const further = (at: Table, before: string[], depth: number): ColumnChoice[] =>
    depth === 0
      ? []
      : at.relations
          .filter((relation) => !isClosed(at, relation.column))
          .flatMap((relation) => {
            const next = findTable(catalogue, relation.table);
            return next
              ? [...own(next, [...before, relation.name]), ...further(next, [...before, relation.name], depth - 1)]
              : [];
          });
  return [...own(table, []), ...further(table, [], 2)];
}

/** Of those, the ones that may hold an address of somebody: they are noted so, or called so. */
export const addressChoices = (choices: ColumnChoice[]): ColumnChoice[] =>
  choices.filter(
    ({ column, at }) =>
      !isClosed(at, column.name) &&
      (column.kind === 'e-mail' || (column.type === 'text' && /e-?mail/i.test(column.name))),
  );

/** Columns that no ceiling closes, of types that can be compared. */
function openColumns(table: Table | undefined): Column[] {
  return (table?.columns ?? []).filter((column) => column.type !== 'other' && !isClosed(table!, column.name));
}

/** What a column can be compared with beside a constant: the facts of the member, and today. */
export function factChoices(draft: PortalDefinition, catalogue: Catalogue): { operand: Operand; group: string }[] {
  const member = ['id', 'email'].map((fact) => ({
    operand: { kind: 'member', fact: [fact] } satisfies Operand,
    group: 'the signed-in member',
  }));
  const rows = draft.rosters.flatMap((roster) =>
    openColumns(findTable(catalogue, roster.table)).map((column) => ({
      operand: { kind: 'member', fact: [roster.table, column.name] } satisfies Operand,
      group: `the member's row in ${roster.table}`,
    })),
  );
  return [
    ...rows,
    ...member,
    { operand: { kind: 'clock', what: 'today' }, group: 'the clock' },
    { operand: { kind: 'clock', what: 'now' }, group: 'the clock' },
  ];
}

/** A constant to begin with that fits the column. */
export function firstConstant(column: Column): Operand {
  switch (column.type) {
    case 'yes/no':
      return { kind: 'boolean', value: true };
    case 'whole number':
    case 'decimal':
    case 'number':
      return { kind: 'number', digits: '0' };
    case 'date':
    case 'date and time':
      return { kind: 'clock', what: 'today' };
    default:
      return { kind: 'text', text: column.choices?.[0] ?? '' };
  }
}

export function firstCondition(table: Table): CompareCondition {
  const column =
    openColumns(table).find(
      (each) => each.type !== 'other' && each.type !== 'time' && each.type !== 'several choices',
    ) ?? table.columns[0]!;
  return {
    kind: 'compare',
    left: { kind: 'column', path: [column.name] },
    comparison: '=',
    right: firstConstant(column),
  };
}
