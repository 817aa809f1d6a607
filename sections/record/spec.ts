import type { OnPage } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { rowFilter } from '../../core/definition/access-schema';
import { sheetOf, type RowFilter, type Sheet } from '../../core/definition/definition';
import { audiencesOfSheet, linkedAsks, renamedSheet, sheetAsks } from '../../core/definition/sheet';
import { tableName } from '../../core/definition/name-schema';
import type { CheckedSpec } from '../../core/check/section-findings';
import { sheetSchema, sortSchema } from '../../core/definition/section-schema';

/** One record in the page itself: the first that the condition gives, in this order. */
export interface RecordSection extends OnPage {
  kind: 'record';
  table: string;
  where: RowFilter;
  sort: { column: string; descending: boolean }[];
  /** The sheet that it has here, where it is not the table's. */
  sheet?: Sheet;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    record: RecordSection;
  }
}

export const spec: CheckedSpec<RecordSection> = {
  parts: ({ sheet }) => (sheet ? audiencesOfSheet(sheet) : []),
  schema: {
    kind: Joi.valid('record').required(),
    table: tableName.required(),
    where: rowFilter.required(),
    sort: sortSchema.required(),
    sheet: sheetSchema,
  },
  asks: ({ table, where, sort, sheet }, definition) => {
    const { columns, ...asked } = sheetAsks(sheet, sheetOf(definition, table), []);
    return [
      ...linkedAsks(sheet ?? sheetOf(definition, table)),
      {
        table,
        shows: columns,
        ...asked,
        sorts: sort.map(({ column }) => column),
        where: where === 'every row' ? [] : [where],
      },
    ];
  },
  renamed: (section, names) => {
    const path = (text: string) => names.path(section.table, text);
    const { sheet, where } = section;
    return {
      ...section,
      table: names.table(section.table),
      where: where === 'every row' ? where : names.condition(section.table, where),
      sort: section.sort.map((term) => ({ ...term, column: path(term.column) })),
      ...(sheet ? { sheet: renamedSheet(section.table, sheet, names) } : {}),
    };
  },
};
