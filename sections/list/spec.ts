import { waysToOpen, type Audience, type OnPage, type WayToOpen } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { checkCondition } from '../../core/condition/check';
import { findTable, type Catalogue } from '../../core/table/catalogue';
import { condition } from '../../core/definition/condition-schema';
import { existsOf, type Condition } from '../../core/condition/tree';
import { rowFilter } from '../../core/definition/access-schema';
import { sheetOf, type Page, type RowFilter, type Sheet } from '../../core/definition/definition';
import type { Finding } from '../../core/check/finding';
import { audiencesOfSheet, linkedAsks, renamedSheet, sheetAsks } from '../../core/definition/sheet';
import { id, label, tableName } from '../../core/definition/name-schema';
import { actFindings } from '../act-findings';
import type { CheckedSpec } from '../../core/check/section-findings';
import { audience, pathText, sheetSchema, sortSchema } from '../../core/definition/section-schema';

/** What can be done with the records of a list, where rights allow it. */
export const listActs = ['create', 'delete', 'export'] as const;

/** How many records a page of a list may hold. */
export const listSizes = [10, 25, 50, 100] as const;

/** So many, when nothing else is said. */
export const usualSize = 25;

export type ListAct = (typeof listActs)[number];

/** A view of a list that is there from the start: some of its records, in an order of its own where it has one. */
export interface ListTab {
  /** Never changes, and is the tab's alone in its list. */
  id: string;
  name: string;
  where: RowFilter;
  sort?: ListSection['sort'];
  /** Who gets it of those who get the list; all of them when absent. */
  audience?: Audience;
}

/** A sign with a word at the records of which a condition is true. */
export interface ListMark {
  /** Never changes, and is the mark's alone in its list. */
  id: string;
  word: string;
  /** Its place among the colours that a mark can have. */
  colour: number;
  where: Condition;
  /** The column at which it stands, as a path; the first when absent. */
  column?: string;
}

/** A list of one table's records, each opening as its sheet. */
export interface ListSection extends OnPage {
  kind: 'list';
  table: string;
  /** Paths in their text form: `code`, `well.code`. */
  columns: string[];
  /** What columns are called on this list, by their paths, where that is another name than everywhere. */
  headings?: Record<string, string>;
  sort: { column: string; descending: boolean }[];
  where: RowFilter;
  /** What its records stand in groups by, as a path; moments by their day. */
  group?: string;
  /** Columns of numbers with their sum below them, over all that the list holds. */
  totals?: string[];
  /** Views to choose from, the first of which it begins with. */
  tabs?: ListTab[];
  marks?: ListMark[];
  /** The roles whose people may share views of it that they keep; nobody when absent. */
  shares?: string[];
  /** Columns that are changed in the list itself, where rights allow it. */
  inPlace?: string[];
  /** Where its records open; beside it when absent. */
  opens?: WayToOpen;
  /** How many stand on a page of it; 25 when absent. */
  size?: (typeof listSizes)[number];
  /** Columns that are searched in, as paths; those that it shows when absent. */
  searched?: string[];
  /** New records are added in a last line of the list itself, by those who may. */
  line?: true;
  /** Without search, filter, kept views and arranging: a few records beside others. */
  bare?: true;
  /** Actions whose buttons stand at each record, by their ids. */
  acts?: string[];
  /** What is not offered here, although rights allow it. */
  without?: ListAct[];
  /** The sheet that records have on this page, where it is not the table's. */
  sheet?: Sheet;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    list: ListSection;
  }
}

export const spec: CheckedSpec<ListSection> = {
  parts: ({ tabs = [], sheet }) => [
    ...tabs.flatMap(({ id: of, name, audience: whom }) => (whom ? [{ id: of, called: name, audience: whom }] : [])),
    ...(sheet ? audiencesOfSheet(sheet) : []),
  ],
  schema: {
    kind: Joi.valid('list').required(),
    table: tableName.required(),
    columns: Joi.array().items(pathText).unique().max(100).required(),
    headings: Joi.object().pattern(pathText, label.min(1).required()).min(1).max(100),
    sort: sortSchema.required(),
    where: rowFilter.required(),
    group: pathText,
    opens: Joi.valid(...waysToOpen),
    size: Joi.valid(...listSizes),
    searched: Joi.array().items(pathText).unique().min(1).max(50),
    line: Joi.valid(true),
    bare: Joi.valid(true),
    totals: Joi.array().items(pathText).unique().min(1).max(20),
    tabs: Joi.array()
      .items(
        Joi.object({
          id: id.required(),
          name: label.min(1).max(60).required(),
          where: rowFilter.required(),
          sort: sortSchema,
          audience,
        }),
      )
      .unique('id')
      .min(1)
      .max(12),
    marks: Joi.array()
      .items(
        Joi.object({
          id: id.required(),
          word: label.min(1).max(40).required(),
          colour: Joi.number().integer().min(0).max(7).required(),
          where: condition.required(),
          column: pathText,
        }),
      )
      .unique('id')
      .min(1)
      .max(8),
    shares: Joi.array().items(id).unique().min(1).max(100),
    inPlace: Joi.array().items(pathText).unique().min(1).max(50),
    acts: Joi.array().items(id).unique().min(1).max(20),
    without: Joi.array()
      .items(Joi.valid(...listActs))
      .unique()
      .min(1),
    sheet: sheetSchema,
  },
  asks: ({ table, columns, sort, where, group, totals, tabs = [], sheet }, definition) => {
    const everywhere = sheetOf(definition, table);
    const grouped = group === undefined ? [] : [group];
    const { columns: onSheet, ...asked } = sheetAsks(sheet, everywhere, [...columns, ...grouped]);
    return [
      ...linkedAsks(sheet ?? everywhere),
      {
        table,
        shows: [...new Set([...columns, ...grouped, ...onSheet])],
        ...asked,
        reckons: totals ?? [],
        sorts: [
          ...new Set([...grouped, ...[sort, ...tabs.map((tab) => tab.sort ?? [])].flat().map(({ column }) => column)]),
        ],
        where: [where, ...tabs.map((tab) => tab.where)].filter((each) => each !== 'every row'),
        tabs: tabs.flatMap((tab) => (tab.where === 'every row' ? [] : [{ ...tab, where: tab.where }])),
      },
    ];
  },
  renamed: (section, names) => {
    const path = (text: string) => names.path(section.table, text);
    const { sheet } = section;
    const rows = (where: RowFilter) => (where === 'every row' ? where : names.condition(section.table, where));
    const inOrder = (sort: ListSection['sort']) => sort.map((term) => ({ ...term, column: path(term.column) }));
    return {
      ...section,
      table: names.table(section.table),
      columns: section.columns.map(path),
      ...(section.headings
        ? { headings: Object.fromEntries(Object.entries(section.headings).map(([of, word]) => [path(of), word])) }
        : {}),
      where: rows(section.where),
      ...(section.group === undefined ? {} : { group: path(section.group) }),
      ...(section.totals ? { totals: section.totals.map(path) } : {}),
      ...(section.searched ? { searched: section.searched.map(path) } : {}),
      ...(section.inPlace ? { inPlace: section.inPlace.map(path) } : {}),
      sort: inOrder(section.sort),
      ...(section.marks
        ? {
            marks: section.marks.map((mark) => ({
              ...mark,
              where: names.condition(section.table, mark.where),
              ...(mark.column === undefined ? {} : { column: path(mark.column) }),
            })),
          }
        : {}),
      ...(section.tabs
        ? {
            tabs: section.tabs.map((tab) => ({
              ...tab,
              where: rows(tab.where),
              ...(tab.sort ? { sort: inOrder(tab.sort) } : {}),
              ...(tab.audience?.where
                ? { audience: { ...tab.audience, where: names.condition('', tab.audience.where) } }
                : {}),
            })),
          }
        : {}),
      ...(sheet ? { sheet: renamedSheet(section.table, sheet, names) } : {}),
    };
  },
  findings: (section, page, catalogue, definition) => [
    ...markFindings(section, page, catalogue),
    ...actFindings(section, page, definition),
  ],
};

/** Why it can't be told of a record whether it is marked; null where it can. */
function markProblem(catalogue: Catalogue, name: string, where: Condition): string | null {
  const table = findTable(catalogue, name);
  if (!table) return null;
  if (existsOf(where).length > 0) return 'a mark goes by what stands in the record, not by related records';
  return checkCondition(where, { catalogue, table, member: true })[0]?.reason ?? null;
}

function markFindings(
  { id: list, title, table, marks = [] }: ListSection,
  page: Page,
  catalogue: Catalogue,
): Finding[] {
  return marks.flatMap(({ id: mark, word, where }): Finding[] => {
    const problem = markProblem(catalogue, table, where);
    return problem === null
      ? []
      : [
          {
            id: `mark/${page.id}/${list}/${mark}`,
            kind: 'section does not work',
            severity: 'broken',
            place: { stage: 'pages', page: page.id },
            title: `The mark “${word}” in ${title ?? table} on ${page.title} can't be decided: ${problem}`,
            why: 'So nothing is marked. Write its condition again, or take it out.',
          },
        ];
  });
}
