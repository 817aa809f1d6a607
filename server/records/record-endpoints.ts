import { isAskedFor } from '../../core/access/asked-for';
import { tableRights } from '../../core/access/rights';
import { askedFilter, countedQuery, listQuery, pathOf, pathsOf, questionOf, text } from './record-question';
import { asOffered } from './offered';
import { isUnchanged, linkPages } from './conditional';
import { writeEndpoints } from './write-endpoints';
import {
  viewSql,
  NotFound,
  figures,
  measures,
  type Measure,
  across,
  at,
  list,
  page,
  type ListPage,
  openTable,
  lookup,
  read,
  related,
} from '../gate/gate';
import Joi from 'joi';
import { printPath } from '../../core/definition/path';
import { findColumn, findTable } from '../../core/table/catalogue';
import type { Sequelize } from 'sequelize';
import { fileOfColumn, keepForColumn } from '../files/column-files';
import { receiveFile } from '../files/receive';
import { sendBytes } from '../files/stored-file';
import { dateStepNames, type DateStep } from '../../core/dialect/dialect';
import { AlsoAs, endpoint, FileAnswer, oneFile, unchanged, written, type Entry } from '../http/endpoint';
import { wantedType } from '../http/media';
import { columnInfos, tableInfo } from '../columns/column-info';
import { refuseSeenBy } from '../visits/entries';
import { attachmentEndpoints } from '../comments/attachment-endpoints';
import { commentEndpoints } from '../comments/comment-endpoints';
import type { PortalVisit } from '../visits/member-visit';
import { exportEndpoints } from './export-endpoints';
import { pageTypes, sendPage } from './page-as-text';
import * as answers from './record-answers';

const figureBody = Joi.object<{
  measures: { what: Measure['what']; column?: string }[];
  by: { column: string; step?: DateStep }[];
  filter: string;
  smallestGroup: number;
}>({
  measures: Joi.array()
    .items(Joi.object({ what: Joi.valid(...measures).required(), column: text(300) }))
    .min(1)
    .max(20)
    .required(),
  by: Joi.array()
    .items(Joi.object({ column: text(300).required(), step: Joi.valid(...dateStepNames) }))
    .max(2)
    .default([]),
  filter: text(8000).default(''),
  smallestGroup: Joi.number().integer().min(0).max(1_000_000).default(0),
});

/**
 * Records of a portal as one person gets them: for members themselves, for builders at all records, and for
 * builders looking as a member. The entry says who asks; everything else is the gate's.
 */
export function recordEndpoints(sequelize: Sequelize, entry: Entry<{ visit: PortalVisit }>) {
  return {
    table: endpoint({
      method: 'GET',
      path: '/tables/:table',
      says: 'What the person may see and do of a table: its columns, and what may be filled, changed and deleted.',
      entry,
      answers: { 200: answers.tableInfo },
      does: async ({ visit, params: { table } }) => tableInfo(await at(visit, table), table),
    }),
    list: endpoint({
      method: 'GET',
      path: '/records/:table',
      says:
        'Records of a table, page by page, as JSON, CSV or JSON lines; `counted=false` leaves out how many there ' +
        'are, which is quicker. `guard` puts a sign before cells of CSV that a spreadsheet would take for formulas.',
      entry,
      assumes: true,
      query: countedQuery,
      answers: { 200: new AlsoAs(answers.listPage, ...pageTypes) },
      does: async ({ visit: asked, params: { table }, query: { counted, guard, ...query }, req, res }) => {
        const type = wantedType(req, res, ['application/json', ...pageTypes]);
        const visit = await at(asked, table);
        const question = questionOf(visit, table, query, null);
        const isCounted = counted && type === 'application/json';
        const found = await across(visit, table, question.columns, (columns): Promise<ListPage> =>
          (isCounted ? list : page)(visit.source, visit, table, { ...question, columns }),
        );
        linkPages(req, res, found);
        if (type === 'application/json') return found;
        await sendPage(res, type, question.columns, found, guard);
        return written;
      },
    }),
    record: endpoint({
      method: 'GET',
      path: '/records/:table/:id',
      says: 'One record with what may be done with it; all its columns, or those named.',
      entry,
      assumes: true,
      query: Joi.object<{ columns?: string }>({ columns: text(4000) }),
      answers: { 200: answers.recordAnswer, 304: null },
      does: async ({ visit: asked, params: { table, id }, query: { columns }, req, res }) => {
        const visit = await at(asked, table);
        const {
          records: [record],
          away,
        } = await across(visit, table, columns ? pathsOf(columns) : [], async (own) => ({
          records: [await read(visit.source, visit, table, id, own)],
        }));
        if (!columns && isUnchanged(req, res, record!)) return unchanged;
        return {
          record: asOffered(visit, record!),
          columns: await columnInfos(visit, table, Object.keys(record!.values)),
          away,
        };
      },
    }),
    related: endpoint({
      method: 'GET',
      path: '/records/:table/:id/related/:relation',
      says: 'The records that lead to a record, as a list.',
      entry,
      query: listQuery,
      answers: { 200: answers.listAnswer },
      does: async ({ visit, params: { table, id, relation }, query }) =>
        related(await at(visit, table), table, id, relation, (there, child) => questionOf(there, child, query, null)),
    }),
    lookup: endpoint({
      method: 'GET',
      path: '/lookups/:table/:relation',
      says: 'Records that a relation may lead to, found by what they are called.',
      entry,
      query: Joi.object<{ search: string; size: number }>({
        search: text(200).trim().default(''),
        size: Joi.number().integer().min(1).max(100).default(20),
      }),
      answers: { 200: answers.candidates },
      does: async ({ visit, params: { table, relation }, query: { search, size } }) => ({
        candidates: await lookup(await at(visit, table), table, relation, search, size),
      }),
    }),
    figures: endpoint({
      method: 'POST',
      reads: true,
      path: '/figures/:table',
      says: 'Figures over the records that the person sees, by up to two columns; small groups are put together.',
      entry,
      body: figureBody,
      answers: { 200: answers.figureAnswer },
      does: async ({ visit: asked, params, body }) => {
        const visit = await at(asked, params.table);
        const view = viewSql(visit);
        const table = openTable(visit, view, params.table);
        return figures(visit.source, visit, table.name, {
          measures: body.measures.map(({ what, column }) => ({
            what,
            path: column === undefined ? undefined : pathOf(column),
          })),
          by: body.by.map(({ column, step }) => ({ path: pathOf(column), step })),
          where: askedFilter(view, table, body.filter),
          smallestGroup: body.smallestGroup,
        });
      },
    }),
    sendFile: endpoint({
      method: 'POST',
      path: '/records/:table/files/:column',
      says: 'Keeps a file for a column, for a day until a record holds it.',
      entry,
      body: oneFile,
      answers: { 201: answers.keptFile },
      does: async ({ visit: asked, params: { table, column }, req }) => {
        const visit = await at(asked, table);
        refuseSeenBy(visit);
        const view = viewSql(visit);
        const found = findTable(visit.catalogue, table);
        const brings = found && (tableRights(view.view(found)).brings(column) || isAskedFor(visit, table, column));
        if (!brings || findColumn(found, column)?.kind !== 'file') throw new NotFound('column');
        return receiveFile(req, (name, bytes) =>
          keepForColumn(sequelize, visit.portalId, visit.person, { table, column }, name, bytes),
        );
      },
    }),
    file: endpoint({
      method: 'GET',
      path: '/records/:table/:id/files/:column',
      says: 'The file that a column of a record holds.',
      entry,
      answers: { 200: new FileAnswer('application/octet-stream', 'image/*') },
      does: async ({ visit: asked, params: { table, id, column }, res }) => {
        const visit = await at(asked, table);
        const record = await read(visit.source, visit, table, id, [[column]]);
        const path = printPath([column]);
        const value = record.values[path];
        const found =
          findColumn(findTable(visit.catalogue, table)!, column)?.kind === 'file' &&
          typeof value === 'string' &&
          !record.masked.includes(path)
            ? await fileOfColumn(visit.portalId, value)
            : null;
        if (!found) throw new NotFound('file');
        res.set(found.headers);
        await sendBytes(sequelize, found.file.id, res);
      },
    }),
    ...commentEndpoints(entry),
    ...attachmentEndpoints(entry, sequelize),
    ...exportEndpoints(entry),
    ...writeEndpoints(entry),
  };
}
