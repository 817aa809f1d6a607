import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { visibleColumns } from '../../core/access/view';
import { readCondition } from '../../core/condition/check';
import type { Condition } from '../../core/condition/tree';
import { readPath } from '../../core/definition/path';
import type { ListSection } from '../../core/definition/definition';
import { findTable, isPathProblem, resolvePath, type Table } from '../../core/table/catalogue';
import { BadQuestion, NotFound } from '../gate/errors';
import { edit, type Changes } from '../gate/edit';
import { list, openTable, type ListQuestion } from '../gate/list';
import { isSortable } from '../gate/order';
import { read } from '../gate/read';
import { ViewSql, type Visit } from '../gate/view-sql';
import { Problem, valid } from '../http/problems';
import { columnInfos, pageInfo, pagesOf } from './page-info';
import type { PortalVisit } from './visit';

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

const editBody = Joi.object<{ changes: Changes }>({
  changes: Joi.object().pattern(Joi.string().max(64), Joi.object({ from: Joi.any().required(), to: Joi.any().required() })).min(1).max(300).required(),
});

/**
 * Pages and records of a portal as one person gets them: for members themselves, and for builders looking as a member.
 * `visitOf` says who asks; everything else is the gate's.
 */
export function recordRoutes(visitOf: (req: Request, res: Response) => Promise<PortalVisit>): Router {
  const router = Router({ mergeParams: true });

  router.get('/me', async (req, res) => {
    const visit = await visitOf(req, res);
    res.json({
      portal: { slug: visit.definition.portal.slug, name: visit.definition.portal.name, colour: visit.definition.portal.colour, timeZone: visit.definition.portal.timeZone },
      member: { name: visit.name, email: visit.person.email, roles: visit.definition.roles.filter((role) => visit.person.roles.includes(role.id)).map((role) => role.name) },
      pages: pagesOf(visit).map((page) => pageInfo(visit, page)),
    });
  });

  router.get('/pages/:page/:section', async (req, res) => {
    const visit = await visitOf(req, res);
    const section = sectionOf(visit, req.params.page, req.params.section);
    const query = valid(listQuery, req.query, 'query');
    const question = questionOf(visit, section.table, { ...query, columns: undefined }, section);
    res.json(await list(visit.source, visit, section.table, question));
  });

  router.get('/records/:table', async (req, res) => {
    const visit = await visitOf(req, res);
    const query = valid(listQuery, req.query, 'query');
    res.json(await list(visit.source, visit, req.params.table, questionOf(visit, req.params.table, query, null)));
  });

  router.get('/records/:table/:id', async (req, res) => {
    const visit = await visitOf(req, res);
    const columns = valid(Joi.object<{ columns?: string }>({ columns: text(4000) }), req.query, 'query').columns;
    const record = await read(visit.source, visit, req.params.table, req.params.id, columns ? pathsOf(columns) : []);
    res.json({ record, columns: columnInfos(visit, new ViewSql(visit), req.params.table, Object.keys(record.values)) });
  });

  router.patch('/records/:table/:id', async (req, res) => {
    const visit = await visitOf(req, res);
    if (visit.seenBy) throw new Problem(403, 'seen-by', 'Seen by shows the portal and changes nothing.');
    const { changes } = valid(editBody, req.body);
    res.json({ record: await edit(visit.source, visit, req.params.table, req.params.id, changes) });
  });
  return router;
}

function sectionOf(visit: Visit, pageId: string, index: string): ListSection {
  const page = pagesOf(visit).find((each) => each.id === pageId);
  const section = /^\d{1,2}$/.test(index) ? page?.sections[Number(index)] : undefined;
  if (!section) throw new NotFound('page');
  return section;
}

function questionOf(visit: Visit, tableName: string, query: ListQuery, section: ListSection | null): ListQuestion {
  const view = new ViewSql(visit);
  const table = openTable(visit, view, tableName);
  const columns = query.columns ? pathsOf(query.columns) : section ? knownPaths(section.columns) : visibleColumns(view.view(table)).map((name) => [name]);
  const where: Condition[] = [];
  if (section && section.where !== 'every row') where.push(section.where);
  if (query.filter.trim() !== '') {
    where.push(readCondition(query.filter, { catalogue: view.askCatalogue(), table: findTable(view.askCatalogue(), table.name)!, member: false }));
  }
  return { columns, sort: query.sort ? sortOf(query.sort) : sectionSort(view, table, section), where, search: query.search, after: query.after ?? null, before: query.before ?? null, size: query.size };
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
  return sort.split(',').slice(0, 5).map((term) => {
    const descending = term.startsWith('-');
    const path = readPath(descending ? term.slice(1) : term);
    if (!path) throw new BadQuestion('The list can\'t be sorted by this.');
    return { path, descending };
  });
}

function pathsOf(columns: string): string[][] {
  return columns.split(',').slice(0, 300).map((each) => {
    const path = readPath(each.trim());
    if (!path) throw new BadQuestion(`"${each.trim()}" is not the name of a column.`);
    return path;
  });
}
