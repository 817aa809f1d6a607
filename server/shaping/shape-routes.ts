import type { Bench, OpenDraft } from '../bench/bench';
import {
  addColumn,
  drawTable,
  refuseTaken,
  renameColumn,
  renameTable,
  changeType,
  bringBack,
  listGone,
  takeColumnAway,
  takeTableAway,
  makeIndex,
  missingIndexes,
  readSavedQuery,
} from '../gate/gate';
import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { askedColumns } from '../../core/check/index-advice';
import type { Renaming } from '../../core/definition/translate';
import { drawnTypes, type DrawnColumn, type DrawnTable } from '../../core/table/drawn';
import { writeAudit } from '../audit/audit';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import { runScript } from './run-script';
import type { ScriptDialect } from '../formats/script-node';
import type { CoreServices } from '../definitions/portal-services';
import { readScriptAside } from '../threads/aside';
import { refuseRename, refuseStray, usesAtSource } from '../drafts/follow-rename';
import { changeShape, type ShapeChange } from './shape-changes';

const identifier = Joi.string()
  .pattern(/^[a-z][a-z0-9_]{0,55}$/, 'lower-case letters, digits and _')
  .required();

/** A comma would divide a choice in two where several are kept together. */
const choice = Joi.string()
  .trim()
  .min(1)
  .max(100)
  .pattern(/^[^,]*$/, 'a choice without commas');

const column = Joi.object<DrawnColumn>({
  name: identifier,
  type: Joi.valid(...drawnTypes).required(),
  required: Joi.boolean().strict().required(),
  unique: Joi.boolean().strict().required(),
  initial: Joi.string().max(2000).allow(null, '').required(),
  maxLength: Joi.number().integer().min(1).max(4000),
  scale: Joi.number().integer().min(0).max(10),
  currency: Joi.string().pattern(/^[A-Z]{3}$/, 'a currency of ISO 4217, like EUR'),
  to: Joi.string().max(64),
  choices: Joi.when('type', {
    is: 'several choices',
    then: Joi.array().items(choice).unique().min(1).max(64).required(),
    otherwise: Joi.when('type', {
      is: 'one choice',
      then: Joi.array().items(choice).unique().min(1).max(500).required(),
      otherwise: Joi.forbidden(),
    }),
  }),
}).required();

const colours = Joi.object<Record<string, number>>()
  .pattern(Joi.string().max(100), Joi.number().integer().min(0).max(7))
  .default({});

const tableBody = Joi.object<DrawnTable & { colours: Record<string, Record<string, number>> }>({
  name: identifier,
  columns: Joi.array().items(column).min(1).max(200).required(),
  stamps: Joi.boolean().strict().required(),
  colours: Joi.object().pattern(Joi.string().max(64), colours).default({}),
});

/**
 * Shaping tables: drawn, changed, renamed, deleted and had back. In the product's own database alone; elsewhere the
 * database's own people do it.
 */
export function shapeRoutes(services: CoreServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const own = async (req: Request): Promise<OpenDraft> => {
    const opened = await bench.draftOf(req);
    if (opened.definition.source.connection !== undefined)
      throw new Problem(
        422,
        'source',
        "Only tables in Stone Porch's own database are shaped here. This portal has its records in a connected one.",
      );
    await opened.source.catalogue(true);
    return { ...opened, ...(await services.sources.of(opened.definition)) };
  };
  /** Saved queries speak of tables by their names, in words that nobody changes for them. */
  const refuseQueried = async ({ catalogue }: OpenDraft, table: string, of?: string) => {
    const query = catalogue.tables.find(
      (each) =>
        each.query !== undefined &&
        readSavedQuery(each.query, catalogue).reads.includes(table) &&
        (of === undefined || new RegExp(`\\b${of.replaceAll(/\W/g, '.')}\\b`, 'i').test(each.query)),
    );
    if (query)
      throw new Problem(
        422,
        'invalid-values',
        `The saved query ${query.name} reads it by this name. Change or delete that first.`,
      );
  };
  /** Changes the shape of the portal's own schema, and what follows from that. */
  const changing = <T>({ definition }: OpenDraft, change: ShapeChange, alter: () => Promise<T>): Promise<T> =>
    changeShape(services, definition.source.schema, change, alter);
  const noting = (
    { portal }: OpenDraft,
    res: Response,
    table: string,
    columns: DrawnColumn[],
    marks: Record<string, Record<string, number>>,
    type = false,
  ): ShapeChange => ({
    what: 'note',
    portalId: portal.id,
    builderId: bench.builder(res).id,
    table,
    columns,
    colours: marks,
    type,
  });
  const log = ({ portal }: OpenDraft, res: Response, about: string) =>
    writeAudit(portal.id, bench.signed(res), 'changed the shape', about);

  router.get('/shape', async (req, res) => {
    const { definition, source, catalogue } = await bench.draftOf(req);
    const isOwn = definition.source.connection === undefined;
    res.json({
      own: isOwn,
      gone: isOwn ? await listGone(source, new Date()) : [],
      missing: await missingIndexes(source, catalogue, askedColumns(definition, catalogue)),
    });
  });
  router.get('/shape/uses', async (req, res) => {
    const { table, column: of } = valid(
      Joi.object<{ table: string; column?: string }>({
        table: Joi.string().max(64).required(),
        column: Joi.string().max(64),
      }),
      req.query,
      'query',
    );
    const { definition, source } = await bench.draftOf(req);
    res.json({ uses: await usesAtSource(definition.source, await source.catalogue(), table, of) });
  });
  router.post('/shape/tables', async (req, res) => {
    const { colours: marks, ...drawn } = valid(tableBody, req.body);
    const opened = await own(req);
    await refuseStray(opened.definition.source, await opened.source.catalogue(), { table: drawn.name });
    await changing(opened, noting(opened, res, drawn.name, drawn.columns, marks), () =>
      drawTable(opened.source, opened.catalogue, drawn),
    );
    await log(opened, res, `drew the table ${drawn.name}`);
    res.status(201).json({ table: drawn.name });
  });
  router.post('/shape/tables/:table/columns', async (req, res) => {
    const drawn = valid(
      Joi.object<{ column: DrawnColumn; colours: Record<string, number> }>({ column, colours }),
      req.body,
    );
    const { table } = req.params;
    const opened = await own(req);
    await refuseStray(opened.definition.source, await opened.source.catalogue(), { table, column: drawn.column.name });
    await changing(opened, noting(opened, res, table, [drawn.column], { [drawn.column.name]: drawn.colours }), () =>
      addColumn(opened.source, opened.catalogue, table, drawn.column),
    );
    await log(opened, res, `added ${table}.${drawn.column.name}`);
    res.status(201).end();
  });
  router.post('/shape/tables/:table/columns/:column/type', async (req, res) => {
    const { column: drawn, apply } = valid(
      Joi.object<{ column: DrawnColumn; apply: boolean }>({ column, apply: Joi.boolean().strict().required() }),
      req.body,
    );
    const opened = await own(req);
    const { table, column: of } = req.params;
    const change = () => changeType(opened.source, opened.catalogue, table, of, drawn, apply);
    if (!apply) return void res.json(await change());
    const changed = await changing(opened, noting(opened, res, table, [drawn], {}, true), change);
    await log(opened, res, `made ${table}.${of} hold ${drawn.type}`);
    res.json(changed);
  });
  router.post('/shape/script', async (req, res) => {
    const { text, dialect, apply } = valid(
      Joi.object<{ text: string; dialect: ScriptDialect; apply: boolean }>({
        text: Joi.string().max(5_000_000).required(),
        dialect: Joi.valid('MariaDB', 'PostgreSQL').required(),
        apply: Joi.boolean().strict().required(),
      }),
      req.body,
    );
    const opened = await own(req);
    const { definition, source, catalogue } = opened;
    const script = await readScriptAside(text, dialect);
    const there = script.tables.find((table) => catalogue.tables.some((known) => known.name === table.name));
    if (there)
      throw new Problem(422, 'invalid-values', `There is a table ${there.name} already. Rename one of the two.`);
    const twice = script.tables.find((table, i) => script.tables.findIndex((other) => other.name === table.name) !== i);
    if (twice)
      throw new Problem(422, 'invalid-values', `The script makes two tables ${twice.name}. Rename one of the two.`);
    for (const table of script.tables) await refuseStray(definition.source, catalogue, { table: table.name });
    if (apply) {
      const made = await changing(opened, { what: 'nothing more' }, () => runScript(source, catalogue, script, true));
      await log(opened, res, `made ${made.tables.join(', ')} of a script`);
      res.status(201).json(made);
    } else {
      await runScript(source, catalogue, script, false);
      res.json({
        tables: script.tables.map((table) => ({
          ...table,
          rows: script.rows
            .filter((rows) => rows.table === table.name)
            .reduce((sum, rows) => sum + rows.values.length, 0),
        })),
        remarks: script.remarks,
      });
    }
  });
  const newName = Joi.object<{ to: string }>({ to: identifier });
  const rename = async (req: Request, res: Response, renaming: Renaming) => {
    const opened = await own(req);
    const { definition, source } = opened;
    await refuseQueried(opened, renaming.table, renaming.column);
    const before = await source.catalogue();
    refuseTaken(before, renaming);
    await refuseRename(definition.source, before, renaming);
    const { table, column: of, to } = renaming;
    await changing(opened, { what: 'rename', source: definition.source, before, renaming }, () =>
      of === undefined ? renameTable(source, before, table, to) : renameColumn(source, before, table, of, to),
    );
    await log(opened, res, `called ${of === undefined ? table : `${table}.${of}`} ${to}`);
    res.status(204).end();
  };
  router.post('/shape/tables/:table/rename', (req, res) =>
    rename(req, res, { table: req.params.table, to: valid(newName, req.body).to }),
  );
  router.post('/shape/tables/:table/columns/:column/rename', (req, res) =>
    rename(req, res, { table: req.params.table, column: req.params.column, to: valid(newName, req.body).to }),
  );
  router.delete('/shape/tables/:table', async (req, res) => {
    const opened = await own(req);
    await refuseQueried(opened, req.params.table);
    await changing(opened, { what: 'nothing more' }, () =>
      takeTableAway(opened.source, opened.catalogue, req.params.table),
    );
    await log(opened, res, `deleted the table ${req.params.table}`);
    res.status(204).end();
  });
  router.delete('/shape/tables/:table/columns/:column', async (req, res) => {
    const opened = await own(req);
    await refuseQueried(opened, req.params.table, req.params.column);
    await changing(opened, { what: 'nothing more' }, () =>
      takeColumnAway(opened.source, opened.catalogue, req.params.table, req.params.column),
    );
    await log(opened, res, `deleted ${req.params.table}.${req.params.column}`);
    res.status(204).end();
  });
  router.post('/shape/gone/:key/back', async (req, res) => {
    const opened = await own(req);
    const gone = await changing(opened, { what: 'nothing more' }, () =>
      bringBack(opened.source, opened.catalogue, req.params.key, new Date()),
    );
    await log(opened, res, `brought back ${gone.table === null ? gone.was : `${gone.table}.${gone.was}`}`);
    res.json(gone);
  });
  router.post('/shape/indexes', async (req, res) => {
    const wanted = valid(
      Joi.object<{ table: string; column: string }>({
        table: Joi.string().max(64).required(),
        column: Joi.string().max(64).required(),
      }),
      req.body,
    );
    const { source, catalogue } = await own(req);
    await makeIndex(source, catalogue, wanted);
    res.status(204).end();
  });
  return router;
}
