import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { askedColumns } from '../../core/check/index-advice';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { drawnTypes, kindOfDrawn, type DrawnColumn, type DrawnTable } from '../../core/table/drawn';
import { addColumn, bringBack, changeType, drawTable, listGone, makeIndex, missingIndexes, renameColumn, renameTable, takeColumnAway, takeTableAway } from '../gate/shape';
import { readSavedQuery } from '../gate/saved-query';
import { Problem, valid } from '../http/problems';
import { runScript } from '../imports/run-script';
import { readScript, type ScriptDialect } from '../imports/sql-script';
import type { Services } from '../http/services';
import type { Source } from '../sources/source';
import type { Builder, Portal } from '../store/models';
import { changeDraft } from './draft';
import { followRename, usesAtSource } from './follow-rename';

const identifier = Joi.string().pattern(/^[a-z][a-z0-9_]{0,55}$/, 'lower-case letters, digits and _').required();
/** A comma would divide a choice in two where several are kept together. */
const choice = Joi.string().trim().min(1).max(100).pattern(/^[^,]*$/, 'a choice without commas');
const column = Joi.object<DrawnColumn>({
  name: identifier, type: Joi.valid(...drawnTypes).required(), required: Joi.boolean().strict().required(), unique: Joi.boolean().strict().required(), initial: Joi.string().max(2000).allow(null, '').required(),
  maxLength: Joi.number().integer().min(1).max(4000), scale: Joi.number().integer().min(0).max(10), currency: Joi.string().pattern(/^[A-Z]{3}$/, 'a currency of ISO 4217, like EUR'), to: Joi.string().max(64),
  choices: Joi.when('type', { is: 'several choices', then: Joi.array().items(choice).unique().min(1).max(64).required(), otherwise: Joi.when('type', { is: 'one choice', then: Joi.array().items(choice).unique().min(1).max(500).required(), otherwise: Joi.forbidden() }) }),
}).required();
const colours = Joi.object<Record<string, number>>().pattern(Joi.string().max(100), Joi.number().integer().min(0).max(7)).default({});
const tableBody = Joi.object<DrawnTable & { colours: Record<string, Record<string, number>> }>({ name: identifier, columns: Joi.array().items(column).min(1).max(200).required(), stamps: Joi.boolean().strict().required(), colours: Joi.object().pattern(Joi.string().max(64), colours).default({}) });

type Opened = { portal: Portal; definition: PortalDefinition; source: Source; catalogue: Catalogue };

/** Shaping tables: drawn, changed, renamed, deleted and had back. In the product's own database alone; elsewhere the database's own people do it. */
export function shapeRoutes(services: Services, draftOf: (req: Request) => Promise<Opened>): Router {
  const router = Router({ mergeParams: true });
  const { sequelize } = services.store;
  const own = async (req: Request): Promise<Opened> => {
    const opened = await draftOf(req);
    if (opened.definition.source.connection !== undefined) throw new Problem(422, 'source', 'Only tables in Stone Porch\'s own database are shaped here. This portal has its records in a connected one.');
    await opened.source.catalogue(true);
    return { ...opened, ...(await services.sources.of(opened.definition)) };
  };
  /** Saved queries speak of tables by their names, in words that nobody changes for them. */
  const refuseQueried = async ({ catalogue }: Opened, table: string, of?: string) => {
    const query = catalogue.tables.find((each) => each.query !== undefined && readSavedQuery(each.query, catalogue).includes(table) && (of === undefined || new RegExp(`\\b${of.replaceAll(/\W/g, '.')}\\b`, 'i').test(each.query)));
    if (query) throw new Problem(422, 'invalid-values', `The saved query ${query.name} reads it by this name. Change or delete that first.`);
  };
  const by = (res: Response) => (res.locals.builder as Builder).name;
  const note = async (portal: Portal, res: Response, table: string, columns: DrawnColumn[], marks: Record<string, Record<string, number>> = {}) => {
    await portal.reload();
    const draft = JSON.parse(portal.draft) as PortalDefinition;
    const known = draft.tables[table]?.columns ?? {};
    const noted = Object.fromEntries(columns.map((each) => {
      const { kind: _kind, currency: _currency, colours: _colours, ...rest } = known[each.name] ?? {};
      return [each.name, { ...rest, ...(kindOfDrawn(each.type) ? { kind: kindOfDrawn(each.type) } : {}), ...(each.currency ? { currency: each.currency } : {}), ...(marks[each.name] && Object.keys(marks[each.name]!).length > 0 ? { colours: marks[each.name] } : {}) }] as const;
    }).filter(([, notes]) => Object.keys(notes).length > 0));
    const value = { ...draft.tables[table], columns: { ...Object.fromEntries(Object.entries(known).filter(([name]) => !columns.some((each) => each.name === name))), ...noted } };
    if (Object.keys(value.columns).length === 0 && Object.keys(known).length === 0) return;
    await changeDraft(sequelize, portal.id, (res.locals.builder as Builder).id, portal.revision, `Note what ${table} holds`, [{ op: 'add', path: `/tables/${table.replaceAll('~', '~0').replaceAll('/', '~1')}`, value }]);
  };

  router.get('/shape', async (req, res) => {
    const { definition, source, catalogue } = await draftOf(req);
    const isOwn = definition.source.connection === undefined;
    res.json({ own: isOwn, gone: isOwn ? await listGone(source, new Date()) : [], missing: await missingIndexes(source, catalogue, askedColumns(definition, catalogue)) });
  });
  router.get('/shape/uses', async (req, res) => {
    const { table, column: of } = valid(Joi.object<{ table: string; column?: string }>({ table: Joi.string().max(64).required(), column: Joi.string().max(64) }), req.query, 'query');
    const { definition, source } = await draftOf(req);
    res.json({ uses: await usesAtSource(definition.source, await source.catalogue(), table, of) });
  });
  router.post('/shape/tables', async (req, res) => {
    const { colours: marks, ...drawn } = valid(tableBody, req.body);
    const { portal, source, catalogue } = await own(req);
    await drawTable(source, catalogue, drawn);
    await note(portal, res, drawn.name, drawn.columns, marks);
    res.status(201).json({ table: drawn.name });
  });
  router.post('/shape/tables/:table/columns', async (req, res) => {
    const drawn = valid(Joi.object<{ column: DrawnColumn; colours: Record<string, number> }>({ column, colours }), req.body);
    const { portal, source, catalogue } = await own(req);
    await addColumn(source, catalogue, req.params.table, drawn.column);
    await note(portal, res, req.params.table, [drawn.column], { [drawn.column.name]: drawn.colours });
    res.status(201).end();
  });
  router.post('/shape/tables/:table/columns/:column/type', async (req, res) => {
    const { column: drawn, apply } = valid(Joi.object<{ column: DrawnColumn; apply: boolean }>({ column, apply: Joi.boolean().strict().required() }), req.body);
    const { portal, source, catalogue } = await own(req);
    const change = await changeType(source, catalogue, req.params.table, req.params.column, drawn, apply);
    if (apply) await note(portal, res, req.params.table, [drawn]);
    res.json(change);
  });
  router.post('/shape/script', async (req, res) => {
    const { text, dialect, apply } = valid(Joi.object<{ text: string; dialect: ScriptDialect; apply: boolean }>({ text: Joi.string().max(5_000_000).required(), dialect: Joi.valid('MariaDB', 'PostgreSQL').required(), apply: Joi.boolean().strict().required() }), req.body);
    const { definition, source, catalogue } = await own(req);
    const script = readScript(text, dialect);
    const there = script.tables.find((table) => catalogue.tables.some((known) => known.name === table.name));
    if (there) throw new Problem(422, 'invalid-values', `There is a table ${there.name} already. Rename one of the two.`);
    if (apply) res.status(201).json(await runScript(source, definition, script));
    else res.json({ tables: script.tables.map((table) => ({ ...table, rows: script.rows.filter((rows) => rows.table === table.name).reduce((sum, rows) => sum + rows.values.length, 0) })), remarks: script.remarks });
  });
  const newName = Joi.object<{ to: string }>({ to: identifier });
  router.post('/shape/tables/:table/rename', async (req, res) => {
    const { to } = valid(newName, req.body);
    const opened = await own(req);
    await refuseQueried(opened, req.params.table);
    const { definition, source } = opened;
    const before = await source.catalogue();
    await renameTable(source, before, req.params.table, to);
    await followRename(sequelize, definition.source, before, { table: req.params.table, to }, by(res));
    res.status(204).end();
  });
  router.post('/shape/tables/:table/columns/:column/rename', async (req, res) => {
    const { to } = valid(newName, req.body);
    const opened = await own(req);
    await refuseQueried(opened, req.params.table, req.params.column);
    const { definition, source } = opened;
    const before = await source.catalogue();
    await renameColumn(source, before, req.params.table, req.params.column, to);
    await followRename(sequelize, definition.source, before, { table: req.params.table, column: req.params.column, to }, by(res));
    res.status(204).end();
  });
  router.delete('/shape/tables/:table', async (req, res) => {
    const opened = await own(req);
    await refuseQueried(opened, req.params.table);
    const { source, catalogue } = opened;
    await takeTableAway(source, catalogue, req.params.table);
    res.status(204).end();
  });
  router.delete('/shape/tables/:table/columns/:column', async (req, res) => {
    const opened = await own(req);
    await refuseQueried(opened, req.params.table, req.params.column);
    const { source, catalogue } = opened;
    await takeColumnAway(source, catalogue, req.params.table, req.params.column);
    res.status(204).end();
  });
  router.post('/shape/gone/:key/back', async (req, res) => {
    const { source, catalogue } = await own(req);
    res.json(await bringBack(source, catalogue, req.params.key, new Date()));
  });
  router.post('/shape/indexes', async (req, res) => {
    const wanted = valid(Joi.object<{ table: string; column: string }>({ table: Joi.string().max(64).required(), column: Joi.string().max(64).required() }), req.body);
    const { source, catalogue } = await own(req);
    await makeIndex(source, catalogue, wanted);
    res.status(204).end();
  });
  return router;
}
