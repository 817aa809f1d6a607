import { sheetOf } from '../../core/definition/definition';
import { columnInfos, titlesBeside, type ColumnInfo } from '../../server/columns/column-info';
import { columnInfo } from '../../server/columns/column-answers';
import { across, at, list, type PlacedVisit } from '../../server/gate/gate';
import { form, listOf, said, yesNo } from '../../server/http/answers';
import { questionOf } from '../../server/records/record-question';
import { isSourceAway } from '../../server/sources/connection-problem';
import { plainLabel } from '../../core/table/catalogue';
import type { SectionServe } from '../serve';
import type { ListSection } from './spec';

/** A list as a person gets it. One on a table of which they see nothing keeps its place, without columns. */
export interface ListTold {
  table: string;
  label: string;
  columns: ColumnInfo[];
  sort: ListSection['sort'];
  /** The columns of its records' sheet. */
  sheet: ColumnInfo[];
  /** True while the source that holds its records can't be reached. */
  away?: true;
}

declare module '../serve' {
  interface SectionTold {
    list: ListTold;
  }
}

/** Null while the source is away: what is there is not shown then, and the rest of the portal goes on. */
async function reached(visit: PlacedVisit, table: string): Promise<PlacedVisit | null> {
  return at(visit, table).catch((error: unknown) => {
    if (isSourceAway(error)) return null;
    throw error;
  });
}

export const serve: SectionServe<ListSection, ListTold> = {
  tell: async (visit, { table, columns, headings = {}, sort, sheet }) => {
    const there = await reached(visit, table);
    const infos = async (paths: string[]) => (there ? columnInfos(there, table, paths) : []);
    const { definition } = visit;
    return {
      ...(there ? {} : { away: true as const }),
      table,
      label: definition.tables[table]?.label ?? plainLabel(table),
      columns: (await infos(columns)).map((info) =>
        Object.hasOwn(headings, info.path) ? { ...info, label: headings[info.path]! } : info,
      ),
      sort,
      sheet: await infos((sheet ?? sheetOf(definition, table))?.columns ?? columns),
    };
  },
  told: {
    table: said,
    label: said,
    columns: listOf(columnInfo),
    sort: listOf(form<ListSection['sort'][number]>({ column: said, descending: yesNo })),
    sheet: listOf(columnInfo),
    away: yesNo.optional(),
  },
  list: async (asked, section, query) => {
    const visit = await at(asked, section.table);
    const question = questionOf(visit, section.table, { ...query, columns: undefined }, section);
    const titles = await titlesBeside(visit, section.table, question.columns);
    return across(visit, section.table, [...question.columns, ...titles], (columns) =>
      list(visit.source, visit, section.table, { ...question, columns }),
    );
  },
};
