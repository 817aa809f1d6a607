import { randomBytes } from 'node:crypto';
import Joi from 'joi';
import { tableRights } from '../../core/access/rights';
import { mostInAJob } from '../../core/definition/action';
import { findTable } from '../../core/table/catalogue';
import {
  actWithEach,
  at,
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
        if (!actions.some(({ id }) => id === action)) throw new NotFound('action');
        await refuseFaults(visit, table, action, ids, asked);
        const order: ActOrder = { table, action, ids, asked, press: press ?? randomBytes(16).toString('hex') };
        return once(visit, [table, action, 'job'], press, () =>
          jobs.start('do an action', visit.portalId, owner, order),
        );
      },
    }),
  };
}

/** What was asked is looked at before anything begins: with one record, which is taken back. */
async function refuseFaults(
  visit: PlacedVisit,
  table: string,
  action: string,
  [first, ...more]: string[],
  asked: Record<string, unknown>,
): Promise<void> {
  // Two of them where there are, as what is of one record alone is refused of several.
  const ids = [first!, ...more.slice(0, 1)];
  const outcomes: Outcome[] = await actWithEach(
    visit.source,
    visit,
    table,
    ids,
    action,
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
    if (!each.done && each.error instanceof InvalidValues && Object.keys(each.error.fields).some((id) => id in asked))
      throw each.error;
}
