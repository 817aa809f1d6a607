import { Job } from '../store/models';
import type { Jobs } from '../jobs/jobs';
import type { TimedRun } from '../store/timed-models';
import { bringKind, type BringOrder } from './bring-job';

/** Begins the job that brings what is due; one that still is at it is left at it. */
export async function beginBringing(jobs: Jobs, { id, subject, portalId }: TimedRun): Promise<void> {
  const order: BringOrder = { run: id, subject };
  const state = ['waiting', 'running', 'saving'];
  const input = JSON.stringify(order);
  if ((await Job.count({ where: { portalId, kind: bringKind, state, input } })) > 0) return;
  await jobs.start(bringKind, portalId, { kind: 'service', id: null }, order);
}
