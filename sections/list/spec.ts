import type { Audience, OnPage } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { rowFilter } from '../../core/definition/access-schema';
import { sheetOf, type RowFilter, type Sheet } from '../../core/definition/definition';
import { linkedAsks, renamedSheet } from '../../core/definition/sheet';
import { id, label, tableName } from '../../core/definition/name-schema';
import type { CheckedSpec } from '../../core/check/section-findings';
import { audience, pathText, sheetSchema, sortSchema } from '../../core/definition/section-schema';

/** What can be done with the records of a list, where rights allow it. */
export const listActs = ['create', 'delete', 'export'] as const;

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
  /** The roles whose people may share views of it that they keep; nobody when absent. */
  shares?: string[];
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
  parts: ({ tabs = [] }) =>
    tabs.flatMap(({ id: of, name, audience: whom }) => (whom ? [{ id: of, called: name, audience: whom }] : [])),
  schema: {
    kind: Joi.valid('list').required(),
    table: tableName.required(),
    columns: Joi.array().items(pathText).unique().max(100).required(),
    headings: Joi.object().pattern(pathText, label.min(1).required()).min(1).max(100),
    sort: sortSchema.required(),
    where: rowFilter.required(),
    group: pathText,
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
    shares: Joi.array().items(id).unique().min(1).max(100),
    without: Joi.array()
      .items(Joi.valid(...listActs))
      .unique()
      .min(1),
    sheet: sheetSchema,
  },
  asks: ({ table, columns, sort, where, group, totals, tabs = [], sheet }, definition) => [
    ...linkedAsks(sheet ?? sheetOf(definition, table)),
    {
      table,
      shows: [
        ...new Set([
          ...columns,
          ...(group === undefined ? [] : [group]),
          ...((sheet ?? sheetOf(definition, table))?.columns ?? []),
        ]),
      ],
      reckons: totals ?? [],
      sorts: [
        ...new Set([
          ...(group === undefined ? [] : [group]),
          ...[sort, ...tabs.map((tab) => tab.sort ?? [])].flat().map(({ column }) => column),
        ]),
      ],
      where: [where, ...tabs.map((tab) => tab.where)].filter((each) => each !== 'every row'),
    },
  ],
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
      sort: inOrder(section.sort),
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
};
