import {
  viewSql,
  BadQuestion,
  NotFound,
  create,
  edit,
  type Changes,
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
  type ListQuestion,
  openTable,
  isSortable,
  lookup,
  read,
  related,
  remove,
  several,
  type Write,
  ViewSql,
  type Visit,
  sayOutcome,
} from '../gate/gate';
import { pagesFor } from '../../core/access/audience';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { visibleColumns } from '../../core/access/view';
import { readCondition } from '../../core/condition/check';
import type { Condition } from '../../core/condition/tree';
import { printPath, readPath } from '../../core/definition/path';
import type { ListSection } from '../../core/definition/definition';
import { findColumn, findTable, isPathProblem, resolvePath, type Table } from '../../core/table/catalogue';
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
import type { PortalVisit } from '../visits/visit';

interface ListQuery {
  columns?: string;
  sort?: string;
  filter: string;
  search: string;
  after?: string;
  before?: string;
  size: number;
}

const text = (max: number) => Joi.string().allow('').max(max);

const listQuery = Joi.object<ListQuery>({
  columns: text(4000),
  sort: text(1000),
  filter: text(8000).default(''),
  search: text(200).trim().default(''),
  after: Joi.string().max(20_000),
  before: Joi.string().max(20_000),
  size: Joi.number().integer().min(1).max(200).default(25),
}).oxor('after', 'before');

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

const changesSchema = Joi.object<Changes>()
  .pattern(Joi.string().max(64), Joi.object({ from: Joi.any().required(), to: Joi.any().required() }))
  .min(1)
  .max(300);

const valuesSchema = Joi.object<Record<string, unknown>>().pattern(Joi.string().max(64), Joi.any()).max(300);
const editBody = Joi.object<{ changes: Changes }>({ changes: changesSchema.required() });
const createBody = Joi.object<{ values: Record<string, unknown> }>({ values: valuesSchema.required() });
const deleteBody = Joi.object<{ seen: Record<string, unknown> }>({ seen: valuesSchema.default({}) });

const severalBody = Joi.object<{ writes: Write[]; mode: 'all or nothing' | 'each by itself' }>({
  writes: Joi.array()
    .items(
      Joi.object({ create: valuesSchema.required() }),
      Joi.object({ edit: text(1000).required(), changes: changesSchema.required() }),
      Joi.object({ delete: text(1000).required(), seen: valuesSchema }),
    )
    .min(1)
    .max(500)
    .required(),
  mode: Joi.valid('all or nothing', 'each by itself').default('all or nothing'),
});

const trialQuery = Joi.object<{ trial: boolean }>({ trial: Joi.boolean().default(false) });

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
    const info = await tableInfo(visit, table);
    const path = printPath([column]);
    const known = info.columns.find((each) => each.path === path);
    if (known?.kind !== 'file' || !(info.changes.includes(path) || info.fills?.includes(path)))
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

  /** The options of a write; in Seen by it can only be tried. */
  const writeOptions = (visit: PortalVisit, req: Request) => {
    const { trial } = valid(trialQuery, req.query, 'query');
    if (visit.seenBy && !trial) throw new Problem(403, 'seen-by', 'Seen by shows the portal and changes nothing.');
    return { trial };
  };
  router.patch('/records/:table/:id', async (req, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { changes } = valid(editBody, req.body);
    res.json({ record: await edit(visit.source, visit, req.params.table, req.params.id, changes, options) });
  });
  router.post('/records/:table', async (req, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { values } = valid(createBody, req.body);
    res.status(options.trial ? 200 : 201).json(await create(visit.source, visit, req.params.table, values, options));
  });
  router.delete('/records/:table/:id', async (req, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { seen } = valid(deleteBody, req.body);
    await remove(visit.source, visit, req.params.table, req.params.id, seen, options);
    res.status(204).end();
  });
  router.post('/records/:table/several', async (req, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { writes, mode } = valid(severalBody, req.body);
    res.json({
      outcomes: (await several(visit.source, visit, req.params.table, writes, mode, options)).map(sayOutcome),
    });
  });
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

function sectionOf(visit: Visit, pageId: string, index: string): ListSection {
  const found = pagesFor(visit.definition, visit.person).find((each) => each.id === pageId);
  const section = /^\d{1,2}$/.test(index) ? found?.sections[Number(index)] : undefined;
  if (!section) throw new NotFound('page');
  return section;
}

function questionOf(visit: Visit, tableName: string, query: ListQuery, section: ListSection | null): ListQuestion {
  const view = viewSql(visit);
  const table = openTable(visit, view, tableName);
  const columns = query.columns
    ? pathsOf(query.columns)
    : section
      ? knownPaths(section.columns)
      : visibleColumns(view.view(table)).map((name) => [name]);
  const where: Condition[] = [];
  if (section && section.where !== 'every row') where.push(section.where);
  where.push(...askedFilter(view, table, query.filter));
  return {
    columns,
    sort: query.sort ? sortOf(query.sort) : sectionSort(view, table, section),
    where,
    search: query.search,
    after: query.after ?? null,
    before: query.before ?? null,
    size: query.size,
  };
}

/** The filter that a person types: columns of their view against constants. */
function askedFilter(view: ViewSql, table: Table, filter: string): Condition[] {
  return filter.trim() === ''
    ? []
    : [
        readCondition(filter, {
          catalogue: view.askCatalogue(),
          table: findTable(view.askCatalogue(), table.name)!,
          member: false,
        }),
      ];
}

function knownPaths(texts: string[]): string[][] {
  return texts.flatMap((each) => {
    const path = readPath(each);
    return path ? [path] : [];
  });
}

/** The page's own order, as far as this person may sort by it. */
function sectionSort(view: ViewSql, table: Table, section: ListSection | null): ListQuestion['sort'] {
  const asking = view.askCatalogue();
  return (section?.sort ?? []).flatMap(({ column, descending }) => {
    const path = readPath(column);
    const found = path && resolvePath(asking, findTable(asking, table.name)!, path);
    return path && found && !isPathProblem(found) && isSortable(found.column) ? [{ path, descending }] : [];
  });
}

function sortOf(sort: string): ListQuestion['sort'] {
  return sort
    .split(',')
    .slice(0, 5)
    .map((term) => {
      const descending = term.startsWith('-');
      const path = readPath(descending ? term.slice(1) : term);
      if (!path) throw new BadQuestion("The list can't be sorted by this.");
      return { path, descending };
    });
}

function pathsOf(columns: string): string[][] {
  return columns
    .split(',')
    .slice(0, 300)
    .map((each) => pathOf(each.trim()));
}

function pathOf(column: string): string[] {
  const path = readPath(column);
  if (!path) throw new BadQuestion(`"${column}" is not the name of a column.`);
  return path;
}
