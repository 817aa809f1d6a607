import type { Bench } from '../bench/bench';
import { NotFound } from '../gate/gate';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { receiveFile } from '../files/receive';
import { fileBytes, keepFile, refuseFull } from '../files/stored-file';
import { valid } from '../http/problems';
import type { CoreServices } from '../definitions/portal-services';
import { stateOf, type Jobs } from '../jobs/jobs';
import { Job, StoredFile } from '../store/models';
import { bringInput, lookInput, readInput, tableInput } from './import-inputs';
import { planFor } from './import-jobs';

const largest = 500 * 1024 * 1024;
const keptFor = 24 * 3600 * 1000;

/** What is begun with a plan; reading a file through begins by itself. */
const planned = { 'table from a file': tableInput, 'look at an import': lookInput, import: bringInput };

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
    const body = valid(Joi.object<{ sheet?: string }>({ sheet: Joi.any() }), req.body);
    await start(req, res, 'read a file', valid(readInput, { ...body, file: req.params.file }));
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
    const { kind, ...input } = valid(
      Joi.object<{ kind: keyof typeof planned }>({ kind: Joi.valid(...Object.keys(planned)).required() }).unknown(),
      req.body,
    );
    await start(req, res, kind, valid<object>(planned[kind], input));
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
