import type { OnPage, WayToOpen } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { rowFilter } from '../../core/definition/access-schema';
import { sheetOf, type RowFilter } from '../../core/definition/definition';
import { linkedAsks, sheetAsks } from '../../core/definition/sheet';
import { id, tableName } from '../../core/definition/name-schema';
import { actFindings } from '../act-findings';
import type { CheckedSpec } from '../../core/check/section-findings';
import { pathText, sortSchema } from '../../core/definition/section-schema';

/** Records of a table as cards, each opening as its sheet. */
export interface CardsSection extends OnPage {
  kind: 'cards';
  table: string;
  /** The first stands as the title of each card. Paths in their text form. */
  columns: string[];
  /** What holds a picture, as a file or by its address. */
  picture?: string;
  /** The newest picture that hangs on each record stands on its card, instead. */
  pictureOfFiles?: true;
  /** How many stand side by side where there is room. */
  across: 1 | 2 | 3 | 4;
  sort: { column: string; descending: boolean }[];
  where: RowFilter;
  /** Actions whose buttons stand on each card, by their ids. */
  acts?: string[];
  /** Where a record opens; beside them when absent. */
  opens?: Exclude<WayToOpen, 'under'>;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    cards: CardsSection;
  }
}

export const spec: CheckedSpec<CardsSection> = {
  schema: {
    kind: Joi.valid('cards').required(),
    table: tableName.required(),
    columns: Joi.array().items(pathText).unique().min(1).max(8).required(),
    picture: pathText,
    pictureOfFiles: Joi.valid(true),
    across: Joi.valid(1, 2, 3, 4).required(),
    sort: sortSchema.required(),
    where: rowFilter.required(),
    acts: Joi.array().items(id).unique().min(1).max(20),
    opens: Joi.valid('over', 'page'),
  },
  asks: ({ table, columns, picture, sort, where }, definition) => {
    const everywhere = sheetOf(definition, table);
    const own = [...columns, ...(picture ? [picture] : [])];
    const { columns: onSheet, ...asked } = sheetAsks(undefined, everywhere, own);
    return [
      ...linkedAsks(everywhere),
      {
        table,
        shows: [...new Set([...own, ...onSheet])],
        ...asked,
        sorts: sort.map(({ column }) => column),
        where: where === 'every row' ? [] : [where],
      },
    ];
  },
  renamed: (section, names) => {
    const path = (text: string) => names.path(section.table, text);
    const { picture, where } = section;
    return {
      ...section,
      table: names.table(section.table),
      columns: section.columns.map(path),
      ...(picture ? { picture: path(picture) } : {}),
      sort: section.sort.map((term) => ({ ...term, column: path(term.column) })),
      where: where === 'every row' ? where : names.condition(section.table, where),
    };
  },
  findings: (section, page, _catalogue, definition) => actFindings(section, page, definition),
};
