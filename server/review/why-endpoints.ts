import type { BenchServices } from '../bench/bench';
import { asBuilder } from '../visits/builder-visit';
import { asSeenBy } from '../visits/entries';
import {
  at,
  count,
  why,
  whyChange,
  whyCreate,
  whyRemove,
  NotFound,
  type PlacedVisit,
  type WriteExplanation,
} from '../gate/gate';
import type { PortalVisit } from '../visits/member-visit';
import type { Explanation } from '../../core/access/explain';
import { rowsWithoutValues, withoutValues } from './without-values';
import Joi from 'joi';
import { form, whole } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { explanation, writeExplanation } from './review-answers';

const valuesBody = Joi.object<{ values: Record<string, unknown> }>({
  values: Joi.object().pattern(Joi.string().max(64), Joi.any()).min(1).max(300).required(),
});

/** Explained is what the person gets, whoever looks. */
function asIs<V extends PlacedVisit>(visit: V): V {
  const { withoutSight: _kept, ...person } = visit.person;
  return { ...visit, person };
}

const explained = ({ person }: PortalVisit, told: Explanation): Explanation =>
  person.withoutSight ? withoutValues(told) : told;

/** As `explained`, of a write; the record that would come of it is not told to who is kept from personal data. */
function written(asked: PortalVisit, told: WriteExplanation): WriteExplanation {
  if (!asked.person.withoutSight) return told;
  return {
    outcome: { ...told.outcome, record: null },
    before: told.before && withoutValues(told.before),
    after: told.after.map((each) => ({ ...each, keepIn: rowsWithoutValues(each.keepIn) })),
    relations: told.relations,
  };
}

/** Why somebody sees what they see, and what would come of what they try; asked beside Seen by. */
export function whyEndpoints(services: BenchServices) {
  const entry = asSeenBy(services);
  return {
    seenOfTable: endpoint({
      method: 'GET',
      path: '/table/:table',
      says: 'How many records of a table the person sees, and how many there are.',
      entry,
      answers: { 200: form<{ seen: number; total: number }>({ seen: whole, total: whole }) },
      does: async ({ visit: asked, params: { table } }) => {
        const visit = await at(asked, table);
        const total = await count(visit.source, asBuilder(visit), table);
        const seen = await count(visit.source, visit, table).catch((error: unknown) => {
          if (error instanceof NotFound) return 0;
          throw error;
        });
        return { seen, total };
      },
    }),
    why: endpoint({
      method: 'GET',
      path: '/why/:table/:id',
      says: 'Why the person sees a record, or a column of it, and what they may do with it.',
      entry,
      query: Joi.object<{ column: string | null }>({ column: Joi.string().max(64).default(null) }),
      answers: { 200: explanation },
      does: async ({ visit: asked, params: { table, id }, query: { column } }) => {
        const visit = await at(asked, table);
        return explained(asked, await why(visit.source, asIs(visit), table, id, column));
      },
    }),
    whyDelete: endpoint({
      method: 'POST',
      reads: true,
      path: '/why-delete/:table/:id',
      says: 'Why the person may or may not delete a record; it is tried and taken back.',
      entry,
      answers: { 200: writeExplanation },
      does: async ({ visit: asked, params: { table, id } }) => {
        const visit = await at(asked, table);
        return written(asked, await whyRemove(visit.source, asIs(visit), table, id));
      },
    }),
    whyCreate: endpoint({
      method: 'POST',
      reads: true,
      path: '/why/:table',
      says: 'Why the person may or may not make a record of these values; it is tried and taken back.',
      entry,
      body: valuesBody,
      answers: { 200: writeExplanation },
      does: async ({ visit: asked, params: { table }, body: { values } }) => {
        const visit = await at(asked, table);
        return written(asked, await whyCreate(visit.source, asIs(visit), table, values));
      },
    }),
    whyChange: endpoint({
      method: 'POST',
      reads: true,
      path: '/why/:table/:id',
      says: 'Why the person may or may not change a record so; it is tried and taken back.',
      entry,
      body: valuesBody,
      answers: { 200: writeExplanation },
      does: async ({ visit: asked, params: { table, id }, body: { values } }) => {
        const visit = await at(asked, table);
        return written(asked, await whyChange(visit.source, asIs(visit), table, id, values));
      },
    }),
  };
}
