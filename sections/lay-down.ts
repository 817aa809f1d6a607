import { lensOf } from '../core/access/lens';
import type { Condition } from '../core/condition/tree';
import { sheetOf, type LinkedList, type Page, type PortalDefinition, type Sheet } from '../core/definition/definition';
import { freeId } from '../core/definition/free-id';
import { printPath } from '../core/definition/path';
import type { Section } from '../core/definition/section-kinds';
import { findColumn, findTable, plainLabel, type Catalogue, type Column, type Table } from '../core/table/catalogue';
import { titleColumns } from '../core/table/title';
import type { CardsSection } from './cards/spec';
import type { ChartSection } from './chart/spec';
import type { FigureSection } from './figure/spec';
import type { ListSection } from './list/spec';
import type { RecordSection } from './record/spec';

/** Pages that are drafted from what a role sees. */
export type Layable = 'about me' | 'dashboard' | 'list' | 'cards';

/** A page that could be laid down for a role: what it is, of which table, and the page itself. */
export interface Proposal {
  what: Layable;
  table: string;
  page: Page;
  /** How records look that are opened from it, by table; those that are arranged already stay as they are. */
  sheets: Record<string, Sheet>;
}

/** What a role sees of a table, in the order in which it is worth reading. */
interface Seen {
  table: Table;
  /** Columns that are shown or masked, without numbers that only tell records apart. */
  columns: Column[];
  /** Of those, the ones that are shown whole: what is filtered, sorted and counted by. */
  whole: Column[];
}

const isDate = ({ type }: Column): boolean => type === 'date' || type === 'date and time';
const isAmount = ({ type, kind }: Column): boolean => type === 'decimal' || kind === 'money';
const isPicture = ({ kind, name }: Column): boolean =>
  kind === 'picture' || (kind === 'file' && /photo|picture|image/i.test(name));
const isLong = ({ type, maxLength = 0 }: Column): boolean => type === 'long text' || maxLength > 255;
const pathOf = ({ name }: Column): string => printPath([name]);

/** The pages that could be laid down for a role, the most telling first; tables of which it sees nothing give none. */
export function proposals(definition: PortalDefinition, catalogue: Catalogue, role: string): Proposal[] {
  const seen = catalogue.tables.flatMap((table) => seenOf(definition, catalogue, table, role) ?? []);
  const own = ownRecord(definition, catalogue, role);
  const rest = seen.filter(({ table }) => table.name !== own?.table.name);
  const drafted = new Drafting(definition, catalogue, role);
  return [
    ...(own ? [drafted.aboutMe(own)] : []),
    ...drafted.dashboard(rest),
    ...rest.map((each) => drafted.list(each)),
    ...rest.filter(({ table }) => table.columns.some(isPicture)).map((each) => drafted.cards(each)),
  ];
}

/**
 * Lays proposals down: their pages last, in their order, and the sheets of tables that had none. Where a table's
 * records are arranged with more than the role sees, they look otherwise on its page.
 */
export function layDown(draft: PortalDefinition, chosen: readonly Proposal[]): void {
  for (const { page, sheets } of chosen) {
    const sections = page.sections.map((section): Section => {
      if (section.kind !== 'list' && section.kind !== 'record') return section;
      const [arranged, own] = [sheetOf(draft, section.table), sheets[section.table]!];
      return arranged === null || isWithin(arranged, own) ? section : { ...section, sheet: own };
    });
    draft.pages.push({ ...structuredClone({ ...page, sections }), id: freeId(page.id, draft.pages) });
    for (const [table, sheet] of Object.entries(sheets))
      if (!Object.hasOwn(draft.sheets, table)) draft.sheets[table] = structuredClone(sheet);
  }
}

/** Whether a sheet shows nothing that another doesn't. */
function isWithin(sheet: Sheet, other: Sheet): boolean {
  const shows = ({ columns, linked = [] }: Sheet) => [
    ...columns,
    ...linked.flatMap(({ table, column, columns: of }) => [column, ...of].map((each) => `${table} ${each}`)),
  ];
  const all = new Set(shows(other));
  return shows(sheet).every((each) => all.has(each));
}

function seenOf(definition: PortalDefinition, catalogue: Catalogue, table: Table, role: string): Seen | null {
  const lens = lensOf(definition, catalogue, table, role);
  if (!lens || lens.rows === 'no row' || table.key.length === 0) return null;
  const [title] = titleColumns(table, definition.tables[table.name]?.titleColumn);
  const isNumber = ({ name, automatic }: Column) => automatic && table.key.includes(name);
  const known = table.columns.filter((column) => lens.columns.has(column.name) && column.type !== 'other');
  const worth = known.filter((column) => !isNumber(column));
  const rank = (column: Column) => (column.name === title ? 0 : isLong(column) ? 2 : 1);
  const columns = (worth.length > 0 ? worth : known).toSorted((a, b) => rank(a) - rank(b));
  if (columns.length === 0) return null;
  return { table, columns, whole: columns.filter(({ name }) => lens.columns.get(name)?.level === 'shown') };
}

/** The row that makes somebody a member with this role, where they see it. */
function ownRecord(definition: PortalDefinition, catalogue: Catalogue, role: string): Seen | null {
  const roster = definition.rosters.find(
    (each) => each.role === role || (each.roles ?? []).some((rule) => rule.role === role),
  );
  const table = roster && findTable(catalogue, roster.table);
  const seen = table ? seenOf(definition, catalogue, table, role) : null;
  // Which row is theirs is asked of the key, which they must see.
  const [key] = table?.key ?? [];
  const lens = table && lensOf(definition, catalogue, table, role);
  return seen && key !== undefined && table!.key.length === 1 && lens!.columns.get(key)?.level === 'shown'
    ? seen
    : null;
}

/** Drafts pages for one role. */
class Drafting {
  constructor(
    private readonly definition: PortalDefinition,
    private readonly catalogue: Catalogue,
    private readonly role: string,
  ) {}

  private label = (table: Table): string => this.definition.tables[table.name]?.label ?? plainLabel(table.name);

  private page(title: string, intro: string, sections: Section[]): Page {
    return { id: freeId(title, []), title, intro, audience: { roles: [this.role] }, sections };
  }

  aboutMe(own: Seen): Proposal {
    const { table } = own;
    const [key] = table.key as [string];
    const where: Condition = {
      kind: 'compare',
      left: { kind: 'column', path: [key] },
      comparison: '=',
      right: { kind: 'member', fact: [table.name, key] },
    };
    const section: RecordSection = { id: 'me', kind: 'record', table: table.name, where, sort: [] };
    const page = this.page('About me', 'What we hold about you.', [section]);
    return { what: 'about me', table: table.name, page, sheets: { [table.name]: this.sheet(own) } };
  }

  list(seen: Seen): Proposal {
    const page = this.page(this.label(seen.table), '', [this.listOf(seen)]);
    return { what: 'list', table: seen.table.name, page, sheets: { [seen.table.name]: this.sheet(seen) } };
  }

  cards(seen: Seen): Proposal {
    const { table, columns } = seen;
    const picture = columns.find(isPicture);
    const section: CardsSection = {
      id: sectionId(table),
      kind: 'cards',
      table: table.name,
      columns: columns
        .filter((column) => column !== picture)
        .slice(0, 4)
        .map(pathOf),
      ...(picture ? { picture: pathOf(picture) } : {}),
      across: 3,
      sort: sortOf(seen),
      where: 'every row',
    };
    const page = this.page(this.label(table), '', [section]);
    return { what: 'cards', table: table.name, page, sheets: { [table.name]: this.sheet(seen) } };
  }

  /** Numbers and drawings of the table that has most to count by, over a list of it. */
  dashboard(all: readonly Seen[]): Proposal[] {
    const [seen] = all
      .filter(({ whole }) => whole.some(isDate) || whole.some(({ type }) => type === 'one choice'))
      .toSorted((a, b) => telling(b) - telling(a));
    if (!seen) return [];
    const { table, whole } = seen;
    const list = this.listOf(seen);
    const [date, choice, amount] = [
      whole.find(isDate),
      whole.find(({ type }) => type === 'one choice'),
      whole.find(isAmount),
    ];
    const figure = (id: string, title: string, more: Partial<FigureSection>): FigureSection => ({
      id,
      title,
      kind: 'figure',
      width: 'half',
      table: table.name,
      measure: 'count',
      where: 'every row',
      follows: list.id,
      ...more,
    });
    const chart = (id: string, title: string, more: Pick<ChartSection, 'form' | 'by'>): ChartSection => ({
      id,
      title,
      kind: 'chart',
      ...(date && choice ? { width: 'half' as const } : {}),
      table: table.name,
      measure: 'count',
      where: 'every row',
      follows: list.id,
      ...more,
    });
    const called = (column: Column) =>
      this.definition.tables[table.name]?.columns?.[column.name]?.label ?? plainLabel(column.name);
    const page = this.page('At a glance', '', [
      figure('how-many', `${this.label(table)} in all`, {}),
      ...(amount ? [figure('sum', `${called(amount)}, in all`, { measure: 'sum', column: pathOf(amount) })] : []),
      ...(choice
        ? [chart('by-choice', `By ${inText(called(choice))}`, { form: 'bars', by: { column: pathOf(choice) } })]
        : []),
      ...(date
        ? [
            chart('by-month', `By month of ${inText(called(date))}`, {
              form: 'lines',
              by: { column: pathOf(date), step: 'month' },
            }),
          ]
        : []),
      list,
    ]);
    return [{ what: 'dashboard', table: table.name, page, sheets: { [table.name]: this.sheet(seen) } }];
  }

  private listOf(seen: Seen): ListSection {
    const { table, columns } = seen;
    const short = columns.filter((column) => !isLong(column) && !isPicture(column));
    return {
      id: sectionId(table),
      kind: 'list',
      table: table.name,
      columns: (short.length > 0 ? short : columns).slice(0, 6).map(pathOf),
      sort: sortOf(seen),
      where: 'every row',
    };
  }

  /** All that is seen of a record, with what points at it. */
  private sheet({ table, columns }: Seen): Sheet {
    const linked = (table.many ?? []).flatMap((many): LinkedList[] => {
      const child = findTable(this.catalogue, many.table);
      const theirs = child && seenOf(this.definition, this.catalogue, child, this.role);
      const relation = child && findColumn(child, many.column);
      const lens = child && lensOf(this.definition, this.catalogue, child, this.role);
      // The column that points back must be theirs to ask, whole.
      if (!theirs || !relation || lens?.columns.get(many.column)?.level !== 'shown') return [];
      const shown = theirs.columns.filter(
        (column) => column.name !== many.column && !isLong(column) && !isPicture(column),
      );
      return shown.length === 0
        ? []
        : [{ table: many.table, column: printPath([many.column]), columns: shown.slice(0, 3).map(pathOf) }];
    });
    return { columns: columns.map(pathOf), ...(linked.length > 0 ? { linked: linked.slice(0, 5) } : {}) };
  }
}

const sectionId = ({ name }: Table): string => freeId(name, []);

const inText = (label: string): string => label.slice(0, 1).toLowerCase() + label.slice(1);

/** The newest first where there is a date, else by what records are called. */
function sortOf({ columns, whole }: Seen): { column: string; descending: boolean }[] {
  const date = whole.find(isDate);
  if (date) return [{ column: pathOf(date), descending: true }];
  const [title] = columns;
  return title && whole.includes(title) ? [{ column: pathOf(title), descending: false }] : [];
}

/** How much there is to count by. */
const telling = ({ whole }: Seen): number =>
  Number(whole.some(isDate)) + Number(whole.some(({ type }) => type === 'one choice')) + Number(whole.some(isAmount));
