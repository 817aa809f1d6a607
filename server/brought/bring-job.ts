import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import type { Brought } from '../../core/definition/brought';
import { writeAudit } from '../audit/audit';
import { fileBytes } from '../files/stored-file';
import { at, type PlacedVisit } from '../gate/gate';
import { previewFile } from '../imports/file-to-table';
import { importAs, inWords, planIn, type ImportResult } from '../imports/import-jobs';
import { mappingOf } from '../imports/kept-table';
import type { JobContext } from '../jobs/run-job';
import { CallFailed } from '../outside/call-out';
import type { StoredFile } from '../store/models';
import { TimedRun } from '../store/timed-models';
import { absentServiceVisit } from '../visits/service-visit';
import { fetchFile } from './fetch-file';

/** So long it is waited after one in vain, beside what it is waited for one that is gone. */
const pause = 8 * 60_000;

/** The kind of the job. */
export const bringKind = 'bring from an address';

export interface BringOrder {
  run: number;
  subject: string;
}

export const bringOrder = Joi.object<BringOrder>({
  run: Joi.number().integer().required(),
  subject: Joi.string().max(40).required(),
});

/**
 * Fetches what is brought on a day, looks what would come of it, and takes it or holds it. What came of it stands in
 * the run; what fails for now leaves the run as it is, to be begun again.
 */
export async function bringFromAddress(context: JobContext, { run: id, subject }: BringOrder): Promise<null> {
  const { services, job } = context;
  const run = await TimedRun.findOne({ where: { id, portalId: job.portalId, subject, state: 'running' } });
  if (!run) return null;
  const end = (of: Partial<TimedRun>) => run.update({ ...of, endedAt: new Date() });
  if (run.goingTo !== null) {
    await end({
      state: 'unsure',
      problem: 'The server was stopped in the moment of saving: look whether it is there.',
    });
    return null;
  }
  let isKept = false;
  try {
    const { visit, brought } = await visitFor(context, subject);
    const file = await fetched(context, visit, brought, run);
    await file.update({
      facts: JSON.stringify(
        await previewFile(
          () => fileBytes(services.store.sequelize, file.id),
          undefined,
          (rows) => context.progress(rows),
        ),
      ),
    });
    const kept = mappingOf(brought.table, undefined);
    const { plan, remembered } = await planIn(file, visit.catalogue, visit.definition, brought.table, kept);
    if (!remembered) {
      await end({ state: 'held', problem: 'Nobody has said yet how its columns go. Bring it once by hand.' });
      return null;
    }
    const found = { file, bytes: () => fileBytes(services.store.sequelize, file.id) };
    const looked = await importAs(context, visit, found, plan, null);
    if (looked.outcome.refused > 0 && brought.refused === 'hold') {
      await end({ state: 'held', problem: null, ...told(looked) });
      return null;
    }
    const done = await importAs(context, visit, found, plan, {
      mode: 'without the refused',
      expected: looked.outcome.digest,
      beforeKeeping: async () => {
        await run.update({ goingTo: 'kept' });
        await context.saving();
      },
    });
    isKept = true;
    await end({ state: 'done', problem: null, goingTo: null, ...told(done) });
    await writeAudit(job.portalId, `by itself: ${brought.name}`, 'imported', inWords(brought.table, done.outcome));
  } catch (error) {
    // In vain for now: it is begun again after a while.
    if (!isKept && (error instanceof CallFailed || error instanceof Problem))
      await run.update({ problem: error.message.slice(0, 1000), goingTo: null, beatAt: new Date(Date.now() + pause) });
    throw error;
  }
  return null;
}

const told = ({ outcome: { added, changed, same, refused }, refusedFile }: ImportResult): Partial<TimedRun> => ({
  done: added + changed,
  refused,
  result: JSON.stringify({ added, changed, same, refused, refusedFile }),
});

/** As the service is now, under what is published now. */
async function visitFor(
  { services, job }: JobContext,
  subject: string,
): Promise<{ visit: PlacedVisit; brought: Brought }> {
  const gone = () => new Problem(409, 'brought', 'It was taken away meanwhile.');
  const unnamed = await absentServiceVisit(services, job.portalId, '');
  const brought = unnamed.definition.brought?.find(({ id }) => id === subject);
  if (!brought) throw gone();
  return { visit: await at(await absentServiceVisit(services, job.portalId, brought.role), brought.table), brought };
}

function fetched(
  { services, job }: JobContext,
  { definition }: PlacedVisit,
  { address }: Brought,
  run: TimedRun,
): Promise<StoredFile> {
  const from = definition.addresses?.find(({ id }) => id === address);
  if (!from) throw new Problem(409, 'brought', 'The address that it is brought from is gone.');
  return fetchFile(services, job.portalId, from, `fetch_${run.id}_${run.day}`);
}
