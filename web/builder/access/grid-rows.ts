import {
  columnLabel,
  dataClassOf,
  dataClasses,
  type DataClass,
  type PortalDefinition,
} from '../../../core/definition/definition';
import { plainLabel, type Catalogue, type Column, type Table } from '../../../core/table/catalogue';
import { levelOf } from './set-level';

/** A line of the grid of stones: a table, or under an open table one of its columns. */
export type GridRow = { kind: 'table'; table: Table; open: boolean } | { kind: 'column'; table: Table; column: Column };

/** What of the grid is wanted: words in names, and columns of a kind. */
export interface GridFilter {
  find: string;
  show: 'all' | 'masked' | 'different' | DataClass;
}

export const showWords: Record<Exclude<GridFilter['show'], DataClass>, string> = {
  all: 'all columns',
  masked: 'masked for someone',
  different: 'where these roles differ',
};

export function readShow(text: string | null): GridFilter['show'] {
  return text === 'masked' || text === 'different' || dataClasses.some((each) => each === text)
    ? (text as GridFilter['show'])
    : 'all';
}

/**
 * The lines for the roles that stand there. With a filter only what answers it, each table open on the columns that do.
 */
export function gridRows(
  draft: PortalDefinition,
  catalogue: Catalogue,
  roles: readonly string[],
  open: ReadonlySet<string>,
  filter: GridFilter,
): GridRow[] {
  const words = filter.find.trim().toLowerCase();
  const filtered = words !== '' || filter.show !== 'all';
  return catalogue.tables.flatMap((table): GridRow[] => {
    const named =
      (draft.tables[table.name]?.label ?? '').toLowerCase().includes(words) || table.name.toLowerCase().includes(words);
    const columns = table.columns.filter((column) => {
      const found =
        named ||
        column.name.toLowerCase().includes(words) ||
        columnLabel(draft, table.name, column.name, plainLabel).toLowerCase().includes(words);
      return found && isShown(draft, table, column.name, roles, filter.show);
    });
    const lines = columns.map((column): GridRow => ({ kind: 'column', table, column }));
    if (!filtered)
      return [{ kind: 'table', table, open: open.has(table.name) }, ...(open.has(table.name) ? lines : [])];
    const itself = words !== '' && named && filter.show === 'all';
    const differs = filter.show === 'different' && named && tableDiffers(draft, table.name, roles);
    if (lines.length === 0 && !differs) return [];
    // A table found by its own name opens when it is asked to; one found by its columns shows those.
    return itself && !open.has(table.name)
      ? [{ kind: 'table', table, open: false }]
      : [{ kind: 'table', table, open: true }, ...lines];
  });
}

function isShown(
  draft: PortalDefinition,
  table: Table,
  column: string,
  roles: readonly string[],
  show: GridFilter['show'],
): boolean {
  if (show === 'all') return true;
  const levels = () => roles.map((role) => levelOf(draft, table, role, column));
  if (show === 'masked') return levels().includes('masked');
  if (show === 'different') return new Set(levels()).size > 1;
  return dataClassOf(draft, table, column) === show;
}

/** Whether what the roles may do with the table as a whole is not the same. */
function tableDiffers(draft: PortalDefinition, table: string, roles: readonly string[]): boolean {
  const rules = roles.map((role) => {
    const { see, create, edit, delete: remove, export: taken } = draft.access[table]?.[role] ?? {};
    return JSON.stringify([see?.where, create && [create.keepIn], edit && [edit.where, edit.keepIn], remove, taken]);
  });
  return new Set(rules).size > 1;
}
