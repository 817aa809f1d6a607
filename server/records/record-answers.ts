import Joi from 'joi';
import type { Candidate, FigureAnswer, ListAnswer, ListPage, OpenRecord, ViewRecord } from '../gate/gate';
import { byName, cell, form, listOf, said, saidOrNull, whole, yesNo } from '../http/answers';
import { columnInfo } from '../columns/column-answers';
import type { ColumnInfo, TableInfo } from '../columns/column-info';

/** Columns whose source can't be reached at the moment. */
export type Away = { away?: string[] };

const away = listOf(said).optional();

export const tableInfo = form<TableInfo>({
  table: said,
  label: said,
  key: listOf(said),
  columns: listOf(columnInfo),
  fills: listOf(said).allow(null),
  changes: listOf(said),
  removes: yesNo,
  exports: yesNo,
  through: listOf(columnInfo),
});

const record = { id: saidOrNull, values: byName(cell), masked: listOf(said) };

const viewRecord = form<ViewRecord>(record);

export const openRecord = form<OpenRecord>({
  ...record,
  editable: listOf(said),
  replaceable: listOf(said),
  deletable: yesNo,
  moves: listOf(form<OpenRecord['moves'][number]>({ id: said, name: said, to: said, needs: listOf(said) })),
  actions: listOf(said),
});

/** What a page of a list holds, whatever is told beside it. */
export const listPageKeys = { records: listOf(viewRecord), next: saidOrNull, previous: saidOrNull };

const page = { ...listPageKeys, away };

export const listAnswer = form<ListAnswer & Away>({ ...page, total: whole });

/** As `listAnswer`, with the marks of each record where the section has some. */
export const sectionAnswer = form<ListAnswer & Away & { marks?: string[][]; acts?: string[][] }>({
  ...page,
  total: whole,
  marks: listOf(listOf(said)).optional(),
  acts: listOf(listOf(said)).optional(),
});

/** A page whose number of records is told where it was asked for. */
export const listPage = form<ListPage & Away & { total?: number }>({ ...page, total: whole.optional() });

export const recordAnswer = form<{ record: OpenRecord; columns: ColumnInfo[] } & Away>({
  record: openRecord,
  columns: listOf(columnInfo),
  away,
});

/** Null where what was written is not in the person's view, or was only tried. */
export const writtenAnswer = form<{ record: OpenRecord | null }>({ record: openRecord.allow(null) });

export const createdAnswer = form<{ id: string | null; record: OpenRecord | null }>({
  id: saidOrNull,
  record: openRecord.allow(null),
});

export const candidates = form<{ candidates: Candidate[] }>({
  candidates: listOf(form<Candidate>({ value: cell, label: said })),
});

export const figureAnswer = form<FigureAnswer>({
  groups: listOf(
    form<FigureAnswer['groups'][number]>({
      key: listOf(cell).allow(null),
      values: listOf(cell),
      leftOut: listOf(whole),
    }),
  ),
  tooFew: yesNo,
});

/** What became of one of several writes: done, or the problem (RFC 9457) that it would have been refused with alone. */
export type Outcome =
  | { done: true; id: string | null; record: OpenRecord | null }
  | { done: false; status: number; detail: string; type: string; fields?: Record<string, unknown> };

export const outcomes = form<{ outcomes: Outcome[] }>({
  outcomes: Joi.array<Outcome[]>().items(
    form<Outcome & { done: true }>({ done: Joi.valid(true), id: saidOrNull, record: openRecord.allow(null) }),
    form<Outcome & { done: false }>({
      done: Joi.valid(false),
      status: whole,
      detail: said,
      type: said,
      fields: byName(cell).optional(),
    }).unknown(),
  ),
});

/** A file that was sent for a column: `file` is what the column is to hold. */
export const keptFile = form<{ file: string; name: string; size: number; type: string }>({
  file: said,
  name: said,
  size: whole,
  type: said,
});
