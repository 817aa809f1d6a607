import { sheetOf } from '../../core/definition/definition';
import { columnInfos, type ColumnInfo } from '../../server/columns/column-info';
import { columnInfo } from '../../server/columns/column-answers';
import { across, at, list } from '../../server/gate/gate';
import { listOf, said, yesNo } from '../../server/http/answers';
import type { Hung } from '../../core/definition/hung';
import { hangsOn, hangTold, linkedLists, linkedTold, type LinkedTold } from '../../server/records/linked-lists';
import { questionOf } from '../../server/records/record-question';
import { plainLabel } from '../../core/table/catalogue';
import { reached } from '../reached';
import type { SectionServe } from '../serve';
import type { RecordSection } from './spec';

/** One record as a person gets it. */
export interface RecordTold {
  table: string;
  label: string;
  /** The columns of its sheet. */
  sheet: ColumnInfo[];
  /** What points at its records, on their sheet. */
  linked: LinkedTold[];
  /** What members hang on a record and is on its sheet. */
  hangs: Hung[];
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
    const columns = (sheet ?? sheetOf(visit.definition, table))?.columns ?? [];
    return {
      ...(there ? {} : { away: true as const }),
      table,
      label: visit.definition.tables[table]?.label ?? plainLabel(table),
      sheet: there ? await columnInfos(there, table, columns) : [],
      linked: there ? await linkedLists(there, table, sheet ?? sheetOf(visit.definition, table)) : [],
      hangs: there === null ? [] : hangsOn(there, table, sheet ?? sheetOf(visit.definition, table)),
    };
  },
  told: {
    table: said,
    label: said,
    sheet: listOf(columnInfo),
    linked: linkedTold,
    hangs: hangTold,
    away: yesNo.optional(),
  },
  // The record itself is read by its number; which one it is stands here.
  list: async (asked, section, query) => {
    const visit = await at(asked, section.table);
    const columns = (section.sheet ?? sheetOf(visit.definition, section.table))?.columns.slice(0, 1) ?? [];
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
