import Joi from 'joi';
import { mostInAJob } from '../../core/definition/action';
import { actWithEach, at, sayOutcome, SomeRefused, type Outcome } from '../gate/gate';
import type { JobContext } from '../jobs/run-job';
import { leaverOf } from '../leaving/leaver';
import { absentMemberVisit } from '../visits/member-visit';
import { tellAddress } from './tell-address';

/** An action that is to be done with many records. */
export interface ActOrder {
  table: string;
  action: string;
  ids: string[];
  asked: Record<string, unknown>;
  /** By what mails and calls of it are known when they are tried again. */
  press: string;
}

/** As it is kept. */
export const actOrder = Joi.object<ActOrder>({
  table: Joi.string().max(105).required(),
  action: Joi.string().max(60).required(),
  ids: Joi.array().items(Joi.string().max(1000).required()).unique().min(1).max(mostInAJob).required(),
  asked: Joi.object().pattern(Joi.string().max(300), Joi.any()).max(300).required(),
  press: Joi.string().max(100).required(),
});

/** What came of it: with how many it was done, and those with which it was not, of some with the reason. */
export interface ActedByJob {
  done: number;
  refused: string[];
  reasons: { id: string; detail: string }[];
}

const mostReasons = 50;

/** Does an action with many records in one transaction, as the action has it: what is stopped leaves nothing. */
export async function actJob(context: JobContext, { table, action, ids, asked, press }: ActOrder): Promise<ActedByJob> {
  const { services, job } = context;
  const visit = await at(await absentMemberVisit(services, job.portalId, job.ownerId!), table);
  const { outcomes } = await actWithEach(
    visit.source,
    visit,
    table,
    ids,
    action,
    { asked },
    {
      leaver: leaverOf(services, visit, press),
      progress: (done) => context.progress(done, ids.length),
      beforeKeeping: () => context.saving(),
    },
  ).catch((error: unknown) => {
    if (!(error instanceof SomeRefused)) throw error;
    // With all of them it would be larger than what anybody reads.
    throw new SomeRefused(error.outcomes, error.outcomes.filter(({ done }) => !done).slice(0, mostReasons));
  });
  // It is kept by now: that somebody can't be told is no reason to say that nothing was done.
  for (const [i, each] of outcomes.entries())
    if (each.done)
      await tellAddress(visit, table, ids[i]!, action).catch(() => services.log.error({ job: job.id }, 'not told'));
  const refused = outcomes.flatMap((each, i) => (each.done ? [] : [{ id: ids[i]!, each }]));
  return {
    done: ids.length - refused.length,
    refused: refused.map(({ id }) => id),
    reasons: refused.slice(0, mostReasons).map(({ id, each }) => ({ id, detail: detailOf(each) })),
  };
}

const detailOf = (outcome: Outcome): string => String((sayOutcome(outcome) as { detail?: string }).detail ?? '');
