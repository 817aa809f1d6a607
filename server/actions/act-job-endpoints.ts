import { randomBytes } from 'node:crypto';
import Joi from 'joi';
import { tableRights } from '../../core/access/rights';
import { mostInAJob, strayProblem, type Action } from '../../core/definition/action';
import { findTable } from '../../core/table/catalogue';
import {
  actWithEach,
  at,
  BadQuestion,
  InvalidValues,
  NotFound,
  SomeRefused,
  viewSql,
  type Outcome,
  type PlacedVisit,
} from '../gate/gate';
import { endpoint, type Entry } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { JobOwner, Jobs } from '../jobs/jobs';
import { once, pressId } from '../presses/presses';
import { text } from '../records/record-question';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import type { ActOrder } from './act-job';

/** Presses with many records, done by a job. */
export function actJobEndpoints(entry: Entry<{ visit: PortalVisit; owner: JobOwner }>, jobs: Jobs) {
  return {
    actWithMany: endpoint({
      method: 'POST',
      path: '/records/:table/actions/:action/job',
      says: 'Begins a job that does an action with many records, in one transaction.',
      entry,
      body: Joi.object<{ ids: string[]; asked: Record<string, unknown>; press?: string }>({
        ids: Joi.array().items(text(1000).required()).unique().min(1).max(mostInAJob).required(),
        asked: Joi.object().pattern(Joi.string().max(300), Joi.any()).max(300).default({}),
        press: pressId,
      }),
      answers: { 202: jobState },
      does: async ({ visit: asking, owner, params: { table, action }, body: { ids, asked, press } }) => {
        refuseSeenBy(asking);
        const visit = { ...(await at(asking, table)), portalId: asking.portalId };
        const known = findTable(visit.catalogue, table);
        const { actions } = known ? tableRights(viewSql(visit).view(known)) : { actions: [] };
        const found = actions.find(({ id }) => id === action);
        if (!found) throw new NotFound('action');
        await refuseFaults(visit, found, ids, asked);
        const order: ActOrder = { table, action, ids, asked, press: press ?? randomBytes(16).toString('hex') };
        return once(visit, [table, action, 'job'], press, () =>
          jobs.start('do an action', visit.portalId, owner, order),
        );
      },
    }),
  };
}

/** What was given to what it asks is looked at before anything begins: by a trial, which is taken back. */
async function refuseFaults(
  visit: PlacedVisit,
  action: Action,
  [first, ...more]: string[],
  asked: Record<string, unknown>,
): Promise<void> {
  const stray = strayProblem(action, asked);
  if (stray !== null) throw new BadQuestion(stray);
  // Two of them where there are, as what is of one record alone is refused of several.
  const ids = [first!, ...more.slice(0, 1)];
  const outcomes: Outcome[] = await actWithEach(
    visit.source,
    visit,
    action.table,
    ids,
    action.id,
    { asked },
    { trial: true },
  ).then(
    (tried) => tried.outcomes,
    (error: unknown) => {
      if (error instanceof SomeRefused) return error.outcomes;
      throw error;
    },
  );
  for (const each of outcomes)
    if (!each.done && each.error instanceof InvalidValues) {
      const { fields } = each.error;
      if (action.asks.some(({ id }) => Object.hasOwn(fields, id))) throw each.error;
    }
}
