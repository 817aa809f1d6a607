import { tableRights } from '../../core/access/rights';
import { sheetOf } from '../../core/definition/definition';
import { columnInfos, titlesBeside, type ColumnInfo } from '../../server/columns/column-info';
import { columnInfo } from '../../server/columns/column-answers';
import Joi from 'joi';
import { across, at, list, NotFound, viewSql, type PlacedVisit } from '../../server/gate/gate';
import { form, listOf, said, yesNo } from '../../server/http/answers';
import { questionOf } from '../../server/records/record-question';
import { reached } from '../reached';
import { findTable, plainLabel } from '../../core/table/catalogue';
import type { SectionServe } from '../serve';
import { listActs, type ListAct, type ListSection } from './spec';

/** A list as a person gets it. One on a table of which they see nothing keeps its place, without columns. */
export interface ListTold {
  table: string;
  label: string;
  columns: ColumnInfo[];
  sort: ListSection['sort'];
  /** The columns of its records' sheet. */
  sheet: ColumnInfo[];
  /** What this person may do here. */
  may: ListAct[];
  /** True while the source that holds its records can't be reached. */
  away?: true;
}

declare module '../serve' {
  interface SectionTold {
    list: ListTold;
  }
}

/** What rights allow of a table's records, and the section offers. */
function mayDo(visit: PlacedVisit, { table: name, without = [] }: ListSection): ListAct[] {
  const table = findTable(visit.catalogue, name);
  if (!table) return [];
  const { fills, removes, exports } = tableRights(viewSql(visit).view(table));
  const allowed = { create: fills !== null, delete: removes, export: exports };
  return listActs.filter((act) => allowed[act] && !without.includes(act));
}

/** The columns that this person sees of it, by the names that they have here. */
async function shownColumns(visit: PlacedVisit, { table, columns, headings = {} }: ListSection): Promise<ColumnInfo[]> {
  return (await columnInfos(visit, table, columns)).map((info) =>
    Object.hasOwn(headings, info.path) ? { ...info, label: headings[info.path]! } : info,
  );
}

export const serve: SectionServe<ListSection, ListTold> = {
  tell: async (visit, section) => {
    const { table, columns, sort, sheet } = section;
    const there = await reached(visit, table);
    const infos = async (paths: string[]) => (there ? columnInfos(there, table, paths) : []);
    const { definition } = visit;
    return {
      ...(there ? {} : { away: true as const }),
      table,
      label: definition.tables[table]?.label ?? plainLabel(table),
      columns: there ? await shownColumns(there, section) : [],
      sort,
      sheet: await infos((sheet ?? sheetOf(definition, table))?.columns ?? columns),
      may: there ? mayDo(there, section) : [],
    };
  },
  told: {
    table: said,
    label: said,
    columns: listOf(columnInfo),
    sort: listOf(form<ListSection['sort'][number]>({ column: said, descending: yesNo })),
    sheet: listOf(columnInfo),
    may: listOf(Joi.valid(...listActs)),
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
  takenOut: async (asked, section, query) => {
    const visit = await at(asked, section.table);
    if (!mayDo(visit, section).includes('export')) throw new NotFound('list');
    // Relations are taken out as they are shown: by what their records are called.
    const infos = await shownColumns(visit, section);
    const columns = infos.map(({ path, relation }) => relation?.title ?? path);
    return {
      visit,
      table: section.table,
      question: questionOf(visit, section.table, query, { ...section, columns }),
      called: new Map(infos.map(({ label }, i) => [columns[i]!, label])),
    };
  },
};
