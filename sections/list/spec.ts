import type { OnPage } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { rowFilter } from '../../core/definition/access-schema';
import { sheetOf, type RowFilter, type Sheet } from '../../core/definition/definition';
import { linkedAsks, renamedSheet } from '../../core/definition/sheet';
import { label, tableName } from '../../core/definition/name-schema';
import type { CheckedSpec } from '../../core/check/section-findings';
import { pathText, sheetSchema, sortSchema } from '../../core/definition/section-schema';

/** What can be done with the records of a list, where rights allow it. */
export const listActs = ['create', 'delete', 'export'] as const;

export type ListAct = (typeof listActs)[number];

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
  schema: {
    kind: Joi.valid('list').required(),
    table: tableName.required(),
    columns: Joi.array().items(pathText).unique().max(100).required(),
    headings: Joi.object().pattern(pathText, label.min(1).required()).min(1).max(100),
    sort: sortSchema.required(),
    where: rowFilter.required(),
    group: pathText,
    totals: Joi.array().items(pathText).unique().min(1).max(20),
    without: Joi.array()
      .items(Joi.valid(...listActs))
      .unique()
      .min(1),
    sheet: sheetSchema,
  },
  asks: ({ table, columns, sort, where, group, totals, sheet }, definition) => [
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
      sorts: [...new Set([...(group === undefined ? [] : [group]), ...sort.map(({ column }) => column)])],
      where: where === 'every row' ? [] : [where],
    },
  ],
  renamed: (section, names) => {
    const path = (text: string) => names.path(section.table, text);
    const { sheet } = section;
    return {
      ...section,
      table: names.table(section.table),
      columns: section.columns.map(path),
      ...(section.headings
        ? { headings: Object.fromEntries(Object.entries(section.headings).map(([of, word]) => [path(of), word])) }
        : {}),
      where: section.where === 'every row' ? section.where : names.condition(section.table, section.where),
      ...(section.group === undefined ? {} : { group: path(section.group) }),
      ...(section.totals ? { totals: section.totals.map(path) } : {}),
      sort: section.sort.map((term) => ({ ...term, column: path(term.column) })),
      ...(sheet ? { sheet: renamedSheet(section.table, sheet, names) } : {}),
    };
  },
};
