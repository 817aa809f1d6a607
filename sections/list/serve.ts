import { tableRights } from '../../core/access/rights';
import { sheetOf } from '../../core/definition/definition';
import { columnInfos, titlesBeside, type ColumnInfo } from '../../server/columns/column-info';
import { columnInfo } from '../../server/columns/column-answers';
import Joi from 'joi';
import { across, at, figures, list, NotFound, viewSql, type PlacedVisit } from '../../server/gate/gate';
import { form, listOf, said, yesNo } from '../../server/http/answers';
import { linkedLists, linkedTold, type LinkedTold } from '../../server/records/linked-lists';
import { questionOf } from '../../server/records/record-question';
import { numbersQuestion, numbersVisit, pathOf } from '../../server/records/section-numbers';
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
  /** What its records stand in groups by, as long as nobody sorts them otherwise. */
  group: ColumnInfo | null;
  /** The columns of its records' sheet. */
  sheet: ColumnInfo[];
  /** What points at its records, on their sheet. */
  linked: LinkedTold[];
  /** Columns that have their sum below them. */
  totals: string[];
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

/** With what it is grouped by among what is asked, and first in its order. */
function inGroups(section: ListSection): ListSection {
  const { group, columns, sort } = section;
  if (group === undefined) return section;
  const first = sort.find(({ column }) => column === group) ?? { column: group, descending: false };
  return {
    ...section,
    columns: [...new Set([...columns, group])],
    sort: [first, ...sort.filter(({ column }) => column !== group)].slice(0, 5),
  };
}

/** The columns that this person sees of it, by the names that they have here. */
async function shownColumns(visit: PlacedVisit, { table, columns, headings = {} }: ListSection): Promise<ColumnInfo[]> {
  return (await columnInfos(visit, table, columns)).map((info) =>
    Object.hasOwn(headings, info.path) ? { ...info, label: headings[info.path]! } : info,
  );
}

export const serve: SectionServe<ListSection, ListTold> = {
  tell: async (visit, section) => {
    const { table, columns, sheet } = section;
    const there = await reached(visit, table);
    const infos = async (paths: string[]) => (there ? columnInfos(there, table, paths) : []);
    const { definition } = visit;
    const seenSort = async (sort: ListSection['sort']) => {
      const seen = (await infos(sort.map(({ column }) => column))).map(({ path }) => path);
      return sort.filter(({ column }) => seen.includes(column));
    };
    return {
      ...(there ? {} : { away: true as const }),
      table,
      label: definition.tables[table]?.label ?? plainLabel(table),
      columns: there ? await shownColumns(there, section) : [],
      sort: await seenSort(inGroups(section).sort),
      group: there && section.group !== undefined ? ((await infos([section.group]))[0] ?? null) : null,
      sheet: await infos((sheet ?? sheetOf(definition, table))?.columns ?? columns),
      linked: there ? await linkedLists(there, table, sheet ?? sheetOf(definition, table)) : [],
      totals: (await infos(section.totals ?? [])).filter(({ asked }) => asked === 'value').map(({ path }) => path),
      may: there ? mayDo(there, section) : [],
    };
  },
  told: {
    table: said,
    label: said,
    columns: listOf(columnInfo),
    sort: listOf(form<ListSection['sort'][number]>({ column: said, descending: yesNo })),
    group: columnInfo.allow(null),
    sheet: listOf(columnInfo),
    linked: linkedTold,
    totals: listOf(said),
    may: listOf(Joi.valid(...listActs)),
    away: yesNo.optional(),
  },
  list: async (asked, section, query) => {
    const visit = await at(asked, section.table);
    const question = questionOf(visit, section.table, { ...query, columns: undefined }, inGroups(section));
    const titles = await titlesBeside(visit, section.table, question.columns);
    return across(visit, section.table, [...question.columns, ...titles], (columns) =>
      list(visit.source, visit, section.table, { ...question, columns }),
    );
  },
  totals: async (asked, section, narrowed) => {
    const visit = await numbersVisit(asked, section.table);
    const infos = await columnInfos(visit, section.table, section.totals ?? []);
    const summed = infos.filter(({ asked: how }) => how === 'value').map(({ path }) => path);
    if (summed.length === 0) return { totals: [] };
    const over = { table: section.table, measure: 'count' as const };
    const question = await numbersQuestion(visit, over, 'every row', section, narrowed);
    const measures = summed.map((path) => ({ what: 'sum' as const, path: pathOf(path) }));
    const { groups } = await figures(visit.source, visit, section.table, { ...question, measures, by: [] });
    const [all] = groups;
    return {
      totals: summed.map((column, i) => ({ column, number: all?.values[i] ?? null, leftOut: all?.leftOut[i] ?? 0 })),
    };
  },
  takenOut: async (asked, section, query) => {
    const visit = await at(asked, section.table);
    if (!mayDo(visit, section).includes('export')) throw new NotFound('list');
    // Relations are taken out as they are shown: by what their records are called.
    const shown = inGroups(section);
    const called = new Map<string, string>();
    for (const { path, relation, label } of await shownColumns(visit, shown)) {
      const column = relation?.title ?? path;
      if (!called.has(column)) called.set(column, label);
    }
    const question = questionOf(visit, section.table, query, { ...shown, columns: [...called.keys()] });
    return { visit, table: section.table, question, called };
  },
};
