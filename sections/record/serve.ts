import { sheetOf } from '../../core/definition/definition';
import { across, at, list } from '../../server/gate/gate';
import { said, yesNo } from '../../server/http/answers';
import { ownSheet, sheetAnswer, sheetTold, type SheetTold } from '../../server/records/sheet-told';
import { questionOf } from '../../server/records/record-question';
import { plainLabel } from '../../core/table/catalogue';
import { reached } from '../reached';
import type { SectionServe } from '../serve';
import type { RecordSection } from './spec';

/** One record as a person gets it. */
export interface RecordTold extends SheetTold {
  table: string;
  label: string;
  /** True while the source that holds it can't be reached. */
  away?: true;
}

declare module '../serve' {
  interface SectionTold {
    record: RecordTold;
  }
}

export const serve: SectionServe<RecordSection, RecordTold> = {
  tell: async (visit, { table, sheet }) => {
    const there = await reached(visit, table);
    return {
      ...(there ? {} : { away: true as const }),
      table,
      label: visit.definition.tables[table]?.label ?? plainLabel(table),
      ...(await sheetTold(visit, there, table, sheet ?? sheetOf(visit.definition, table), [])),
    };
  },
  told: {
    table: said,
    label: said,
    ...sheetAnswer,
    away: yesNo.optional(),
  },
  // The record itself is read by its number; which one it is stands here.
  list: async (asked, section, query) => {
    const visit = await at(asked, section.table);
    const columns =
      ownSheet(asked, section.sheet ?? sheetOf(visit.definition, section.table))?.columns.slice(0, 1) ?? [];
    const question = questionOf(
      visit,
      section.table,
      { ...query, columns: undefined, size: 1 },
      { ...section, columns },
    );
    return across(visit, section.table, question.columns, (own) =>
      list(visit.source, visit, section.table, { ...question, columns: own }),
    );
  },
};
