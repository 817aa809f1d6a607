import type { Bench } from '../bench/bench';
import { NotFound } from '../gate/gate';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { fileTypes } from '../../core/table/infer';
import { notations } from '../../core/table/notation';
import type { ImportPlan } from '../../core/table/import-plan';
import { receiveFile } from '../files/receive';
import { fileBytes, keepFile, refuseFull } from '../files/stored-file';
import { valid } from '../http/problems';
import type { CoreServices } from '../definitions/portal-services';
import { stateOf, type Jobs } from '../jobs/jobs';
import { Job, StoredFile } from '../store/models';
import type { TablePlan } from './file-to-table';
import { planFor } from './import-jobs';

const largest = 500 * 1024 * 1024;
const keptFor = 24 * 3600 * 1000;

const identifier = Joi.string()
  .pattern(/^[a-z][a-z0-9_]{0,63}$/, 'lower-case letters, digits and _')
  .required();

const fileId = Joi.string()
  .pattern(/^[0-9a-f]{32}$/, 'the id of a file')
  .required();

const header = Joi.string().max(1000).required();
const notation = Joi.valid(...notations);

/** As choices that are drawn. */
const choiceList = Joi.array()
  .items(
    Joi.string()
      .trim()
      .min(1)
      .max(100)
      .pattern(/^[^,]*$/, 'a choice without commas'),
  )
  .unique()
  .min(1)
  .max(500);

const tablePlan = Joi.object<TablePlan>({
  name: identifier,
  columns: Joi.array()
    .items(
      Joi.object({
        header,
        name: identifier,
        type: Joi.valid(...fileTypes).required(),
        nullable: Joi.boolean().strict().required(),
        notation,
        maxLength: Joi.number().integer().min(1).max(4000),
        precision: Joi.number().integer().min(1).max(65),
        scale: Joi.number().integer().min(0).max(30),
        choices: Joi.when('type', { is: 'one choice', then: choiceList.required(), otherwise: Joi.forbidden() }),
      }),
    )
    .min(1)
    .max(300)
    .required(),
}).required();

const importPlan = Joi.object<ImportPlan>({
  table: Joi.string().max(64).required(),
  key: Joi.string().max(64).allow(null).required(),
  columns: Joi.array()
    .items(Joi.object({ header, column: Joi.string().max(64).required(), notation, by: Joi.string().max(64) }))
    .min(1)
    .max(300)
    .required(),
  unknown: Joi.valid('add', 'refuse').required(),
  known: Joi.valid('change', 'refuse').required(),
  empty: Joi.valid('clear', 'keep').required(),
}).required();

/**
 * Files that builders bring, and the jobs on them: read through, made into a table, looked at, brought into a table
 * that is there.
 */
export function fileRoutes(services: CoreServices & { jobs: Jobs }, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const start = async (req: Request, res: Response, kind: string, input: object) => {
    const portal = await bench.portalOf(req);
    res.status(202).json(await services.jobs.start(kind, portal.id, bench.builder(res).id, input));
  };
  router.post('/files', async (req, res) => {
    const portal = await bench.portalOf(req);
    await refuseFull(portal.id);
    const file = await receiveFile(req, (name, bytes) =>
      keepFile(
        services.store.sequelize,
        {
          portalId: portal.id,
          name,
          purpose: 'import',
          type: 'application/octet-stream',
          goneAt: new Date(Date.now() + keptFor),
        },
        bytes,
        largest,
      ),
    );
    await start(req, res, 'read a file', { file: file.id });
  });
  router.post('/files/:file/read', async (req, res) => {
    const { sheet } = valid(Joi.object<{ sheet?: string }>({ sheet: Joi.string().max(200) }), req.body);
    await start(req, res, 'read a file', { file: req.params.file, sheet });
  });
  router.get('/files/:file/plan/:table', async (req, res) => {
    const portal = await bench.portalOf(req);
    res.json(await planFor(services, portal.id, req.params.file, req.params.table));
  });
  router.get('/files/:file', async (req, res) => {
    const portal = await bench.portalOf(req);
    const file = await StoredFile.findOne({ where: { id: req.params.file, portalId: portal.id, purpose: 'download' } });
    if (!file) throw new NotFound('file');
    res.attachment(file.name).set({ 'Content-Type': file.type, 'Content-Length': String(file.size) });
    await pipeline(Readable.from(fileBytes(services.store.sequelize, file.id)), res);
  });
  router.post('/jobs', async (req, res) => {
    const body = valid(
      Joi.object<{ kind: string; file: string; plan: unknown; mode?: string; digest?: string }>({
        kind: Joi.valid('table from a file', 'look at an import', 'import').required(),
        file: fileId,
        plan: Joi.any().when('kind', { is: 'table from a file', then: tablePlan, otherwise: importPlan }),
        mode: Joi.valid('all or nothing', 'without the refused').when('kind', {
          is: 'import',
          then: Joi.required(),
          otherwise: Joi.forbidden(),
        }),
        digest: Joi.string()
          .hex()
          .length(64)
          .when('kind', { is: 'import', then: Joi.required(), otherwise: Joi.forbidden() }),
      }),
      req.body,
    );
    await start(req, res, body.kind, { file: body.file, plan: body.plan, mode: body.mode, digest: body.digest });
  });
  router.get('/jobs', async (req, res) => {
    const portal = await bench.portalOf(req);
    const jobs = await Job.findAll({
      where: { portalId: portal.id, state: ['waiting', 'running', 'saving'] },
      order: [['id', 'DESC']],
      limit: 20,
    });
    res.json({ jobs: jobs.map(stateOf) });
  });
  router.get('/jobs/:job', async (req, res) => {
    const found = await services.jobs.find((await bench.portalOf(req)).id, Number(req.params.job) || 0);
    if (!found) throw new NotFound('job');
    res.json(found);
  });
  router.post('/jobs/:job/cancel', async (req, res) => {
    // Whether it was in time: what is saved already isn't stopped.
    res.json({ stops: await services.jobs.cancel((await bench.portalOf(req)).id, Number(req.params.job) || 0) });
  });
  return router;
}
