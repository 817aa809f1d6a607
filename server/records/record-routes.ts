import { tableRights } from '../../core/access/rights';
import {
  askedFilter,
  listQuery,
  pathOf,
  pathsOf,
  questionOf,
  sectionOf,
  text,
  type ListQuery,
} from './record-question';
import { writeRoutes } from './write-routes';
import {
  viewSql,
  NotFound,
  figures,
  measures,
  type Measure,
  across,
  at,
  exportAcross,
  smallPage,
  type ExportedPage,
  count,
  list,
  page,
  type ListPage,
  openTable,
  lookup,
  read,
  related,
} from '../gate/gate';
import { pagesFor } from '../../core/access/audience';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { printPath } from '../../core/definition/path';
import { findColumn, findTable } from '../../core/table/catalogue';
import type { Sequelize } from 'sequelize';
import { fileOfColumn, keepForColumn } from '../files/column-files';
import { receiveFile } from '../files/receive';
import { fileBytes } from '../files/stored-file';
import { dateStepNames, type DateStep } from '../../core/dialect/dialect';
import type { ExportOrder } from '../exports/export-job';
import { exportFormats, exportText, type TextFormat } from '../formats/export-text';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import { columnInfos, pageInfo, tableInfo } from '../pages/page-info';
import type { PortalVisit } from '../visits/member-visit';

const countedQuery = listQuery.concat(
  Joi.object({ counted: Joi.boolean().default(true) }),
) as unknown as Joi.ObjectSchema<ListQuery & { counted: boolean }>;

const exportQuery = Joi.object<
  Pick<ListQuery, 'columns' | 'sort' | 'filter' | 'search'> & { format: TextFormat; guard: boolean }
>({
  columns: text(8000),
  sort: text(1000),
  filter: text(8000).default(''),
  search: text(200).trim().default(''),
  format: Joi.valid('csv', 'json', 'jsonl').required(),
  guard: Joi.boolean().default(true),
});

const lookupQuery = Joi.object<{ search: string; size: number }>({
  search: text(200).trim().default(''),
  size: Joi.number().integer().min(1).max(100).default(20),
});

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
 * Pages and records of a portal as one person gets them: for members themselves, and for builders looking as a member.
 * `visitOf` says who asks; everything else is the gate's.
 */
export function recordRoutes(
  sequelize: Sequelize,
  whole: (req: Request, res: Response) => Promise<PortalVisit>,
  startExport?: (req: Request, res: Response, order: ExportOrder) => Promise<void>,
): Router {
  const router = Router({ mergeParams: true });
  /** The visit at the source of the table that is asked about. */
  const visitOf = async (req: Request, res: Response) => at(await whole(req, res), String(req.params.table));

  router.get('/me', async (req, res) => {
    const visit = await whole(req, res);
    res.json({
      portal: {
        slug: visit.definition.portal.slug,
        name: visit.definition.portal.name,
        colour: visit.definition.portal.colour,
        timeZone: visit.definition.portal.timeZone,
      },
      member: {
        name: visit.name,
        email: visit.person.email,
        roles: visit.definition.roles.filter((role) => visit.person.roles.includes(role.id)).map((role) => role.name),
      },
      pages: await Promise.all(pagesFor(visit.definition, visit.person).map((page) => pageInfo(visit, page))),
    });
  });

  router.get('/pages/:page/:section', async (req, res) => {
    const asked = await whole(req, res);
    const section = sectionOf(asked, req.params.page, req.params.section);
    const visit = await at(asked, section.table);
    const query = valid(listQuery, req.query, 'query');
    const question = questionOf(visit, section.table, { ...query, columns: undefined }, section);
    res.json(
      await across(visit, section.table, question.columns, (columns) =>
        list(visit.source, visit, section.table, { ...question, columns }),
      ),
    );
  });

  router.get('/tables/:table', async (req, res) => {
    res.json(await tableInfo(await visitOf(req, res), req.params.table));
  });
  router.get('/records/:table', async (req, res) => {
    const visit = await visitOf(req, res);
    const { counted, ...query } = valid(countedQuery, req.query, 'query');
    const question = questionOf(visit, req.params.table, query, null);
    res.json(
      await across(visit, req.params.table, question.columns, (columns): Promise<ListPage> =>
        (counted ? list : page)(visit.source, visit, req.params.table, { ...question, columns }),
      ),
    );
  });
  router.get('/exports/:table', async (req, res) => {
    const visit = await visitOf(req, res);
    const { format, guard, ...query } = valid(exportQuery, req.query, 'query');
    const question = questionOf(visit, req.params.table, { ...query, size: 1 }, null);
    const pages = exportAcross(visit, req.params.table, question, smallPage);
    // The first page tells whether it may be had at all, before anything is sent.
    const first = await pages.next();
    res
      .attachment(`${req.params.table}.${exportFormats[format].ending}`)
      .set('Content-Type', exportFormats[format].type);
    const giveWay = res.locals.giveWay as () => Promise<void>;
    await pipeline(Readable.from(exportText(format, continued(first, pages, giveWay), { guard })), res);
  });

  router.get('/records/:table/:id', async (req, res) => {
    const visit = await visitOf(req, res);
    const columns = valid(Joi.object<{ columns?: string }>({ columns: text(4000) }), req.query, 'query').columns;
    const { table, id } = req.params;
    const {
      records: [record],
      away,
    } = await across(visit, table, columns ? pathsOf(columns) : [], async (own) => ({
      records: [await read(visit.source, visit, table, id, own)],
    }));
    res.json({ record, columns: await columnInfos(visit, table, Object.keys(record!.values)), away });
  });

  router.post('/records/:table/files/:column', async (req, res) => {
    const visit = await visitOf(req, res);
    if (visit.seenBy) throw new Problem(403, 'seen-by', 'Seen by shows the portal and changes nothing.');
    const { table, column } = req.params;
    const view = viewSql(visit);
    const found = openTable(visit, view, table);
    if (findColumn(found, column)?.kind !== 'file' || !tableRights(view.view(found)).brings(column))
      throw new NotFound('column');
    res
      .status(201)
      .json(
        await receiveFile(req, (name, bytes) =>
          keepForColumn(sequelize, visit.portalId, visit.person, { table, column }, name, bytes),
        ),
      );
  });
  router.get('/records/:table/:id/files/:column', async (req, res) => {
    const visit = await visitOf(req, res);
    const { table, id, column } = req.params;
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
    await pipeline(Readable.from(fileBytes(sequelize, found.file.id)), res);
  });

  router.get('/records/:table/:id/related/:relation', async (req, res) => {
    const visit = await visitOf(req, res);
    const query = valid(listQuery, req.query, 'query');
    const { table, id, relation } = req.params;
    res.json(await related(visit, table, id, relation, (there, child) => questionOf(there, child, query, null)));
  });

  router.get('/lookups/:table/:relation', async (req, res) => {
    const visit = await visitOf(req, res);
    const query = valid(lookupQuery, req.query, 'query');
    res.json({ candidates: await lookup(visit, req.params.table, req.params.relation, query.search, query.size) });
  });

  router.post('/figures/:table', async (req, res) => {
    const visit = await visitOf(req, res);
    const body = valid(figureBody, req.body);
    const view = viewSql(visit);
    const table = openTable(visit, view, req.params.table);
    res.json(
      await figures(visit.source, visit, table.name, {
        measures: body.measures.map(({ what, column }) => ({
          what,
          path: column === undefined ? undefined : pathOf(column),
        })),
        by: body.by.map(({ column, step }) => ({ path: pathOf(column), step })),
        where: askedFilter(view, table, body.filter),
        smallestGroup: body.smallestGroup,
      }),
    );
  });

  // As a job, which people elsewhere have no page for yet.
  if (startExport) {
    router.post('/exports/:table', async (req, res) => {
      const visit = await visitOf(req, res);
      const { format, guard, ...query } = valid(
        exportQuery.concat(Joi.object({ format: Joi.valid('xlsx') })) as unknown as Joi.ObjectSchema<
          Omit<ListQuery, 'size'> & { format: TextFormat | 'xlsx'; guard: boolean }
        >,
        req.body,
      );
      const question = questionOf(visit, String(req.params.table), { ...query, size: 1 }, null);
      const total = await count(visit.source, visit, String(req.params.table), question.where).catch(() => null);
      await startExport(req, res, {
        table: String(req.params.table),
        format,
        guard,
        question: { columns: question.columns, sort: question.sort, where: question.where, search: question.search },
        total,
      });
    });
  }

  router.use(writeRoutes(visitOf));
  return router;
}

/** The rest of the pages after the first was asked for. */
async function* continued(
  first: IteratorResult<ExportedPage, void>,
  rest: AsyncGenerator<ExportedPage>,
  between: () => Promise<void>,
): AsyncGenerator<ExportedPage> {
  if (first.done) return;
  yield first.value;
  for await (const page of rest) {
    await between();
    yield page;
  }
}
