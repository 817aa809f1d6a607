import type { Sequelize } from 'sequelize';
import { sendBytes } from '../files/stored-file';
import { NotFound } from '../gate/gate';
import { form, listOf, yesNo } from '../http/answers';
import { endpoint, FileAnswer, ownNumber, type Entry } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { JobOwner, Jobs, JobState } from '../jobs/jobs';
import { StoredFile } from '../store/models';
import type { PortalVisit } from '../visits/member-visit';

/** What a member has begun, and nobody else's: how far it is, stopping it, and the file that it made. */
export function ownJobEndpoints(
  sequelize: Sequelize,
  entry: Entry<{ visit: PortalVisit; owner: JobOwner }>,
  jobs: Jobs,
) {
  return {
    ownRunningJobs: endpoint({
      method: 'GET',
      path: '/jobs',
      says: 'Your jobs that wait or run, the newest first.',
      entry,
      answers: { 200: form<{ jobs: JobState[] }>({ jobs: listOf(jobState) }) },
      does: async ({ visit, owner }) => ({ jobs: await jobs.running(visit.portalId, owner) }),
    }),
    ownJob: endpoint({
      method: 'GET',
      path: '/jobs/:job',
      says: 'How far a job of yours is, or what came of it.',
      entry,
      params: { job: ownNumber },
      answers: { 200: jobState },
      does: async ({ visit, owner, params: { job } }) => {
        const found = await jobs.find(visit.portalId, job, owner);
        if (!found) throw new NotFound('job');
        return found;
      },
    }),
    cancelOwnJob: endpoint({
      method: 'POST',
      path: '/jobs/:job/cancel',
      says: 'Stops a job of yours and says whether that was in time.',
      entry,
      params: { job: ownNumber },
      answers: { 200: form<{ stops: boolean }>({ stops: yesNo }) },
      does: async ({ visit, owner, params: { job } }) => ({ stops: await jobs.cancel(visit.portalId, job, owner) }),
    }),
    fileOfOwnJob: endpoint({
      method: 'GET',
      path: '/jobs/:job/file',
      says: 'The file that a job of yours made.',
      entry,
      params: { job: ownNumber },
      answers: { 200: new FileAnswer('application/octet-stream') },
      does: async ({ visit: { portalId }, owner, params: { job }, res }) => {
        const found = await jobs.find(portalId, job, owner);
        const id = found?.state === 'done' ? (found.result as { file?: string } | null)?.file : undefined;
        const file =
          id === undefined ? null : await StoredFile.findOne({ where: { id, portalId, purpose: 'download' } });
        if (!file) throw new NotFound('file');
        res.attachment(file.name).set({ 'Content-Type': file.type, 'Content-Length': String(file.size) });
        await sendBytes(sequelize, file.id, res);
      },
    }),
  };
}
