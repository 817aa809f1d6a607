import { tableRights } from '../../core/access/rights';
import { waysToOpen, type WayToOpen } from '../../core/definition/section-kinds';
import { neededColumns } from '../../core/access/view';
import { sheetOf } from '../../core/definition/definition';
import { columnInfos, titlesBeside, type ColumnInfo } from '../../server/columns/column-info';
import { columnInfo } from '../../server/columns/column-answers';
import Joi from 'joi';
import {
  across,
  at,
  BadQuestion,
  figures,
  list,
  NotFound,
  viewSql,
  type ListQuestion,
  type PlacedVisit,
} from '../../server/gate/gate';
import { form, listOf, said, saidOrNull, whole, yesNo } from '../../server/http/answers';
import { offersWrites } from '../../server/records/offered';
import { ownSheet, sheetAnswer, sheetTold, type SheetTold } from '../../server/records/sheet-told';
import { questionOf, type ListQuery } from '../../server/records/record-question';
import { numbersQuestion, numbersVisit, pathOf, searchedIn } from '../../server/records/section-numbers';
import { reached } from '../reached';
import { printPath, readPath } from '../../core/definition/path';
import { findTable, plainLabel } from '../../core/table/catalogue';
import type { SectionServe } from '../serve';
import { listActs, usualSize, type ListAct, type ListSection } from './spec';
import { actsOf, actsOffered, pathsOfActs } from '../acts-of';
import { decidable, marksOf, pathsOfMarks } from './marks';
import { chartNumbers } from '../chart/chart-numbers';
import { readDrawn } from '../chart/drawn-by';
import { hasTab, inTab, tabsFor } from './tab';

/** A list as a person gets it. One on a table of which they see nothing keeps its place, without columns. */
export interface ListTold extends SheetTold {
  table: string;
  label: string;
  columns: ColumnInfo[];
  sort: ListSection['sort'];
  /** What its records stand in groups by, as long as nobody sorts them otherwise. */
  group: ColumnInfo | null;
  /** Columns that have their sum below them. */
  totals: string[];
  opens: 'beside' | WayToOpen;
  /** Whether it stands without search, filter, kept views and arranging. */
  bare: boolean;
  /** Paths of columns that may be changed in it, in some record. */
  inPlace: string[];
  /** Columns that are filled in a new line of it; none where no line may be added. */
  line: string[];
  /** Signs that its records may have. */
  marks: { id: string; word: string; colour: number; column: string | null }[];
  /** Its views, by their ids, the one first that it begins with. */
  tabs: { id: string; name: string; sort: ListSection['sort'] }[];
  /** Actions whose buttons stand at its records. */
  acts: string[];
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
  const writes = offersWrites(visit);
  const allowed = { create: writes && fills !== null, delete: writes && removes, export: exports };
  return listActs.filter((act) => allowed[act] && !without.includes(act));
}

/** The columns of a new line: those of the list that may be filled, where a record needs no other of this person. */
function lineOf(visit: PlacedVisit, section: ListSection): string[] {
  const table = findTable(visit.catalogue, section.table);
  if (!section.line || !table || !mayDo(visit, section).includes('create')) return [];
  const { fills, stamps } = tableRights(viewSql(visit).view(table));
  const names = section.columns.flatMap((text) => {
    const path = readPath(text);
    return path?.length === 1 && fills?.has(path[0]!) ? path : [];
  });
  const isComplete = neededColumns(table).every(
    (column) => names.includes(column) || stamps(column) || !fills?.has(column),
  );
  return isComplete ? names.map((name) => printPath([name])) : [];
}

/** Of the columns that a builder lets be changed here, those that this person may change in some record. */
async function changedHere(visit: PlacedVisit, { table: name, inPlace = [] }: ListSection): Promise<string[]> {
  const table = findTable(visit.catalogue, name);
  if (!table || !offersWrites(visit)) return [];
  const { changes } = tableRights(viewSql(visit).view(table));
  const infos = await columnInfos(visit, name, inPlace);
  return infos
    .filter(({ path, relation, kind }) => !relation && kind !== 'file' && changes.has(readPath(path)?.[0] ?? ''))
    .filter(({ path }) => readPath(path)?.length === 1)
    .map(({ path }) => path);
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

/** Columns as this person sees them, by the names that they have here. */
async function shownColumns(
  visit: PlacedVisit,
  { table, headings = {} }: ListSection,
  columns: string[],
): Promise<ColumnInfo[]> {
  return (await columnInfos(visit, table, columns)).map((info) =>
    Object.hasOwn(headings, info.path) ? { ...info, label: headings[info.path]! } : info,
  );
}

/** The order in which a list stands of itself, as far as this person may sort by it. */
async function sortFor(visit: PlacedVisit, section: ListSection): Promise<ListSection['sort']> {
  const { sort } = inGroups(section);
  const seen = await columnInfos(
    visit,
    section.table,
    sort.map(({ column }) => column),
  );
  return sort.filter(({ column }) => seen.some(({ path }) => path === column));
}

/** What is asked of the list as it stands: in its tab, with the columns that the person chose of those it offers. */
async function questionAsked(
  asking: PlacedVisit,
  section: ListSection,
  query: ListQuery,
): Promise<{ visit: PlacedVisit; shown: string[][]; question: ListQuestion }> {
  const { table, group } = section;
  const now = inGroups(inTab(asking, section, query.view ?? ''));
  const visit = await at(asking, table);
  const question = questionOf(visit, table, { ...query, columns: undefined }, now);
  const chosen = query.columns ? await chosenOf(asking, visit, section, query.columns) : now.columns;
  return {
    visit,
    shown: [...new Set([...chosen, ...(group === undefined ? [] : [group])])].map(pathOf),
    question: query.search === '' ? question : { ...question, searched: await searchedIn(visit, table, section) },
  };
}

/**
 * The chosen columns, of those that this person sees in the list and on its records' sheet; every other is the same to
 * them, and throws.
 */
async function chosenOf(
  asking: PlacedVisit,
  visit: PlacedVisit,
  { table, columns, sheet }: ListSection,
  asked: string,
): Promise<string[]> {
  const onSheet = ownSheet(asking, sheet ?? sheetOf(visit.definition, table))?.columns ?? [];
  const offered = (await columnInfos(visit, table, [...columns, ...onSheet])).map(({ path }) => path);
  const chosen = asked.split(',').slice(0, 100);
  if (!chosen.every((each) => offered.includes(each))) throw new BadQuestion('The list has no such column to show.');
  return chosen;
}

/** The marks that can be decided by what this person sees, each at a column of theirs. */
async function marksTold(visit: PlacedVisit, { table, marks = [] }: ListSection): Promise<ListTold['marks']> {
  const paths = [...pathsOfMarks(marks).map(printPath), ...marks.flatMap(({ column }) => column ?? [])];
  const seen = new Set((await columnInfos(visit, table, [...new Set(paths)])).map(({ path }) => path));
  return decidable(marks, seen).map(({ id, word, colour, column }) => ({
    id,
    word,
    colour,
    column: column !== undefined && seen.has(column) ? column : null,
  }));
}

const sortTold = listOf(form<ListSection['sort'][number]>({ column: said, descending: yesNo }));

export const serve: SectionServe<ListSection, ListTold> = {
  tell: async (visit, section) => {
    const { table, columns, sheet } = section;
    const tabs = tabsFor(visit, section);
    const isOpen = hasTab(visit, section);
    const there = isOpen ? await reached(visit, table) : null;
    const infos = async (paths: string[]) => (there ? columnInfos(there, table, paths) : []);
    const { definition } = visit;
    const inOrder = async (sort: ListSection['sort']) => (there ? sortFor(there, { ...section, sort }) : []);
    return {
      ...(there || !isOpen ? {} : { away: true as const }),
      table,
      label: definition.tables[table]?.label ?? plainLabel(table),
      columns: there ? await shownColumns(there, section, columns) : [],
      sort: await inOrder(section.sort),
      group: there && section.group !== undefined ? ((await infos([section.group]))[0] ?? null) : null,
      ...(await sheetTold(visit, there, table, sheet ?? sheetOf(definition, table), columns)),
      inPlace: there ? await changedHere(there, section) : [],
      opens: section.opens ?? 'beside',
      bare: section.bare === true,
      totals: (await infos(section.totals ?? [])).filter(({ asked }) => asked === 'value').map(({ path }) => path),
      tabs: await Promise.all(
        tabs.map(async ({ id, name, sort }) => ({ id, name, sort: await inOrder(sort ?? section.sort) })),
      ),
      line: there ? lineOf(there, section) : [],
      marks: there ? await marksTold(there, section) : [],
      acts: there ? actsOffered(there, section) : [],
      may: there ? mayDo(there, section) : [],
    };
  },
  told: {
    table: said,
    label: said,
    columns: listOf(columnInfo),
    sort: sortTold,
    group: columnInfo.allow(null),
    ...sheetAnswer,
    totals: listOf(said),
    opens: Joi.valid('beside', ...waysToOpen),
    bare: yesNo,
    inPlace: listOf(said),
    line: listOf(said),
    tabs: listOf(form<ListTold['tabs'][number]>({ id: said, name: said, sort: sortTold })),
    marks: listOf(form<ListTold['marks'][number]>({ id: said, word: said, colour: whole, column: saidOrNull })),
    acts: listOf(said),
    may: listOf(Joi.valid(...listActs)),
    away: yesNo.optional(),
  },
  list: async (asking, section, query) => {
    const size = query.size ?? section.size ?? usualSize;
    const { visit, shown, question } = await questionAsked(asking, section, { ...query, size });
    const titles = await titlesBeside(visit, section.table, shown);
    const { marks } = section;
    const read = [
      ...shown,
      ...titles,
      ...pathsOfMarks(marks ?? []),
      ...pathsOfActs(visit, { ...section, ticks: true }),
    ];
    const columns = [...new Map(read.map((path) => [printPath(path), path])).values()];
    const answer = await across(visit, section.table, columns, (own) =>
      list(visit.source, visit, section.table, { ...question, columns: own }),
    );
    const acts = actsOf(visit, { ...section, ticks: true }, answer.records);
    return {
      ...answer,
      ...(marks ? { marks: marksOf(visit, section.table, marks, answer.records) } : {}),
      ...(acts ? { acts } : {}),
    };
  },
  totals: async (asking, section, narrowed) => {
    const visit = await numbersVisit(asking, section.table);
    const infos = await columnInfos(visit, section.table, section.totals ?? []);
    const summed = infos.filter(({ asked: how }) => how === 'value').map(({ path }) => path);
    if (summed.length === 0) return { totals: [] };
    const over = { table: section.table, measure: 'count' as const };
    const question = await numbersQuestion(visit, over, 'every row', inTab(asking, section, narrowed.view), narrowed);
    const measures = summed.map((path) => ({ what: 'sum' as const, path: pathOf(path) }));
    const { groups } = await figures(visit.source, visit, section.table, { ...question, measures, by: [] });
    const [all] = groups;
    return {
      totals: summed.map((column, i) => ({ column, number: all?.values[i] ?? null, leftOut: all?.leftOut[i] ?? 0 })),
    };
  },
  chart: (visit, section, page, { draw, ...narrowed }) => {
    const drawn = readDrawn(draw);
    if (!drawn) throw new BadQuestion('This list is not drawn so. Choose what it is drawn by anew.');
    const { table, id } = section;
    return chartNumbers(visit, { table, where: 'every row', follows: id, ...drawn }, page, narrowed);
  },
  counts: async (asking, section) => {
    const visit = await numbersVisit(asking, section.table);
    const over = { table: section.table, measure: 'count' as const };
    const counted = tabsFor(asking, section).map(async ({ id }) => {
      const all = { view: id, filter: '', search: '' };
      try {
        const question = await numbersQuestion(visit, over, 'every row', inTab(asking, section, id), all);
        const { groups } = await figures(visit.source, visit, section.table, { ...question, by: [] });
        return [{ tab: id, count: Number(groups[0]?.values[0] ?? 0) }];
      } catch (error) {
        // A tab that can't be asked of their view says so when it is opened; the others are counted.
        if (error instanceof BadQuestion) return [];
        throw error;
      }
    });
    return { counts: (await Promise.all(counted)).flat() };
  },
  takenOut: async (asking, section, query) => {
    const { visit, shown, question } = await questionAsked(asking, section, query);
    if (!mayDo(visit, section).includes('export')) throw new NotFound('list');
    // Relations are taken out as they are shown: by what their records are called.
    const called = new Map<string, string>();
    for (const { path, relation, label } of await shownColumns(visit, section, shown.map(printPath))) {
      const column = relation?.title ?? path;
      if (!called.has(column)) called.set(column, label);
    }
    return { visit, table: section.table, question: { ...question, columns: [...called.keys()].map(pathOf) }, called };
  },
};
