import { NotFound } from '../gate/gate';
import type { Request } from 'express';
import Joi from 'joi';
import type { Sequelize } from 'sequelize';
import type { ImportColumn, ImportPlan } from '../../core/table/import-plan';
import { atPortal, type BenchServices } from '../bench/bench';
import { receiveFile } from '../files/receive';
import { sendBytes, keepFile, refuseFull } from '../files/stored-file';
import { form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { endpoint, FileAnswer, oneFile, ownNumber } from '../http/endpoint';
import { valid } from '../http/problems';
import { jobState } from '../jobs/job-answers';
import type { Jobs, JobState } from '../jobs/jobs';
import { builders } from '../sessions/as-builder';
import { StoredFile } from '../store/models';
import { bringInput, lookInput, readInput, tableInput } from './import-inputs';
import { planFor } from './import-jobs';

const largest = 500 * 1024 * 1024;
const keptFor = 24 * 3600 * 1000;

/** What is begun with a plan; reading a file through begins by itself. */
const planned = { 'table from a file': tableInput, 'look at an import': lookInput, import: bringInput };

export const importPlan = form<ImportPlan>({
  table: said,
  columns: listOf(form<ImportColumn>({ header: said, column: said, notation: said.optional(), by: said.optional() })),
  key: saidOrNull,
  unknown: Joi.valid('add', 'refuse'),
  known: Joi.valid('change', 'refuse'),
  empty: Joi.valid('clear', 'keep'),
});

/** Keeps a file that is sent to be brought, for a day. */
export async function keepSent(sequelize: Sequelize, portalId: number, req: Request): Promise<StoredFile> {
  await refuseFull(portalId);
  return receiveFile(req, (name, bytes) =>
    keepFile(
      sequelize,
      {
        portalId,
        name,
        purpose: 'import',
        type: 'application/octet-stream',
        goneAt: new Date(Date.now() + keptFor),
      },
      bytes,
      largest,
    ),
  );
}

/**
 * Files that builders bring, and the jobs on them: read through, made into a table, looked at, brought into a table
 * that is there.
 */
export function fileEndpoints(services: BenchServices & { jobs: Jobs }) {
  const { jobs } = services;
  const entry = atPortal(services);
  return {
    bringFile: endpoint({
      method: 'POST',
      path: '/files',
      says: 'Takes a file and begins a job that reads it through.',
      entry,
      body: oneFile,
      answers: { 202: jobState },
      does: async ({ portal, builder, req }) => {
        const file = await keepSent(services.store.sequelize, portal.id, req);
        return jobs.start('read a file', portal.id, builders(builder), { file: file.id });
      },
    }),
    readFile: endpoint({
      method: 'POST',
      path: '/files/:file/read',
      says: 'Begins a job that reads a file through again, as another sheet or as SQL of another kind.',
      entry,
      body: Joi.object<{ sheet?: string }>({ sheet: Joi.any() }),
      answers: { 202: jobState },
      does: ({ portal, builder, params: { file }, body }) =>
        jobs.start('read a file', portal.id, builders(builder), valid(readInput, { ...body, file })),
    }),
    importPlan: endpoint({
      method: 'GET',
      path: '/files/:file/plan/:table',
      says: 'How the columns of a file would go into a table: as the last time, or as their names suggest.',
      entry,
      answers: {
        200: form<{ plan: ImportPlan; remembered: boolean }>({ plan: importPlan, remembered: yesNo }),
      },
      does: ({ portal, builder, params: { file, table } }) => planFor(services, portal.id, builder.id, file, table),
    }),
    download: endpoint({
      method: 'GET',
      path: '/files/:file',
      says: 'A file that a job made.',
      entry,
      answers: { 200: new FileAnswer('application/octet-stream') },
      does: async ({ portal, params, res }) => {
        const file = await StoredFile.findOne({
          where: { id: params.file, portalId: portal.id, purpose: 'download' },
        });
        if (!file) throw new NotFound('file');
        res.attachment(file.name).set({ 'Content-Type': file.type, 'Content-Length': String(file.size) });
        await sendBytes(services.store.sequelize, file.id, res);
      },
    }),
    startJob: endpoint({
      method: 'POST',
      path: '/jobs',
      says: 'Begins a job on a file, with its plan.',
      entry,
      body: Joi.object<{ kind: keyof typeof planned; [more: string]: unknown }>({
        kind: Joi.valid(...Object.keys(planned)).required(),
      }).unknown(),
      answers: { 202: jobState },
      does: ({ portal, builder, body: { kind, ...input } }) =>
        jobs.start(kind, portal.id, builders(builder), valid<object>(planned[kind], input)),
    }),
    runningJobs: endpoint({
      method: 'GET',
      path: '/jobs',
      says: 'The jobs of the portal that wait or run, the newest first.',
      entry,
      answers: { 200: form<{ jobs: JobState[] }>({ jobs: listOf(jobState) }) },
      does: async ({ portal }) => ({ jobs: await jobs.running(portal.id) }),
    }),
    job: endpoint({
      method: 'GET',
      path: '/jobs/:job',
      says: 'How far a job is, or what came of it.',
      entry,
      params: { job: ownNumber },
      answers: { 200: jobState },
      does: async ({ portal, builder, params: { job } }) => {
        // What others began may hold what this builder is kept from.
        const found = await jobs.find(portal.id, job, builder.seesPersonal ? undefined : builders(builder));
        if (!found) throw new NotFound('job');
        return found;
      },
    }),
    cancelJob: endpoint({
      method: 'POST',
      path: '/jobs/:job/cancel',
      says: 'Stops a job and says whether that was in time: what is saved already is not stopped.',
      entry,
      params: { job: ownNumber },
      answers: { 200: form<{ stops: boolean }>({ stops: yesNo }) },
      does: async ({ portal, params: { job } }) => ({ stops: await jobs.cancel(portal.id, job) }),
    }),
  };
}
