import type Joi from 'joi';
import { Op } from 'sequelize';
import '../http/json';
import { Problem } from '../../core/refusals/problem';
import { asProblem, problemBody, valid } from '../http/problems';
import type { CoreServices } from '../definitions/portal-services';
import { Job } from '../store/models';

/** A worker that has said nothing for so long is taken to be gone. */
const goneAfter = 20_000;
const beatEvery = 700;

/** Someone wants the job stopped. */
class Cancelled extends Error {}

/** Another worker has taken the job over, or it is gone. */
class TakenOver extends Error {}

/** What a job works with. */
export interface JobContext {
  services: CoreServices;
  job: Job;
  /** Says how far it is; throws where the job is to be stopped. Cheap to call often. */
  progress(done: number, total?: number | null): Promise<void>;
  /**
   * Called inside the transaction that keeps the work, just before its end: after it a job is not begun again by
   * anybody.
   */
  saving(): Promise<void>;
}

/** A kind of long work: gives what comes of it, as pages get it. */
export type JobKind = (context: JobContext) => Promise<unknown>;

/** Every kind by the name that the job keeps. */
export type JobKinds = Record<string, JobKind>;

/**
 * A kind with what it is given, which is read as anything from outside is: another version may have kept it. The job
 * fails with a Problem where it can't be read.
 */
export function jobKind<Input>(
  input: Joi.ObjectSchema<Input>,
  run: (context: JobContext, input: Input) => Promise<unknown>,
): JobKind {
  return async (context) => run(context, valid(input, JSON.parse(context.job.input)));
}

/** Takes the oldest job that waits or that a worker left behind; null when there is none. */
export async function nextJob(me: string): Promise<Job | null> {
  for (;;) {
    const left = new Date(Date.now() - goneAfter);
    const waiting = await Job.findOne({
      where: { [Op.or]: [{ state: 'waiting' }, { state: ['running', 'saving'], beatAt: { [Op.lt]: left } }] },
      order: [['id', 'ASC']],
    });
    if (!waiting) return null;
    if (waiting.state === 'saving') {
      // Whether the last step was kept can't be told, so it is not done a second time.
      await Job.update(
        {
          state: 'failed',
          result: JSON.stringify({
            problem: problemBody(
              new Problem(
                500,
                'unsure',
                'The server stopped in the very moment of saving. Look whether it is there before you do it again.',
              ),
            ),
          }),
        },
        { where: { id: waiting.id, state: 'saving' } },
      );
      continue;
    }
    const [taken] = await Job.update(
      { state: 'running', worker: me, beatAt: new Date(), done: 0 },
      { where: { id: waiting.id, state: waiting.state, worker: waiting.worker } },
    );
    if (taken === 1) return waiting.reload();
  }
}

/** Does a job and keeps what came of it. */
export async function runJob(kinds: JobKinds, services: CoreServices, job: Job, me: string): Promise<void> {
  let lastBeat = Date.now();
  const mine = { id: job.id, worker: me };
  const beat = async (values: Partial<Pick<Job, 'done' | 'total' | 'state'>>) => {
    lastBeat = Date.now();
    const [kept] = await Job.update({ ...values, beatAt: new Date() }, { where: { ...mine, state: 'running' } });
    if (kept !== 1) throw new TakenOver();
    const now = await Job.findByPk(job.id, { attributes: ['cancelWanted'] });
    if (now?.cancelWanted) throw new Cancelled();
  };
  // Also while one step takes long.
  const pulse = setInterval(
    () =>
      void Job.update({ beatAt: new Date() }, { where: { ...mine, state: ['running', 'saving'] } }).catch(
        () => undefined,
      ),
    3000,
  );
  let isSaving = false;
  const saving = async () => {
    if (!isSaving) await beat({ state: 'saving' });
    isSaving = true;
  };
  const context: JobContext = {
    services,
    job,
    progress: async (done, total = null) => {
      if (Date.now() - lastBeat > beatEvery) await beat({ done, total });
    },
    saving,
  };
  const finish = (state: Job['state'], result: unknown) =>
    Job.update({ state, result: JSON.stringify(result) }, { where: { ...mine, state: ['running', 'saving'] } });
  try {
    const kind = Object.hasOwn(kinds, job.kind) ? kinds[job.kind] : undefined;
    if (!kind) throw new Problem(422, 'job', `This version knows no job of the kind ${job.kind}.`);
    await services.followRights();
    const result = await kind(context);
    // A cancel that was taken up to here holds.
    await saving();
    await finish('done', result);
  } catch (error) {
    if (error instanceof TakenOver) return;
    if (error instanceof Cancelled) {
      await finish('cancelled', null);
      return;
    }
    const problem = asProblem(error);
    if (!problem)
      services.log.error(
        {
          job: job.id,
          kind: job.kind,
          fault:
            error instanceof Error
              ? {
                  name: error.name,
                  stack: (error.stack ?? '')
                    .split('\n')
                    .filter((line) => line.trimStart().startsWith('at '))
                    .join('\n'),
                }
              : 'unknown',
        },
        'fault',
      );
    await finish('failed', {
      problem: problemBody(
        problem ??
          new Problem(
            500,
            'fault',
            'Something went wrong on our side. Nothing was changed. Try again, and tell the people who run ' +
              'this portal if it stays.',
          ),
      ),
    });
  } finally {
    clearInterval(pulse);
  }
}
