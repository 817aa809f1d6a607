import Joi from 'joi';
import { circles, type Circle } from '../../core/definition/hung';
import { form, listOf, saidOrNull, whole } from '../http/answers';
import { endpoint, ownNumber, reply, type Entry } from '../http/endpoint';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import { doubtTold, type Doubt } from './doubts';
import { hungTold } from './hung-on';
import { say, takeBackSaid, talkOf, type CommentTold, type Talk } from './comments';

const circle = Joi.valid(...circles);

// Others read it: lines may end, but nothing hides or turns what stands beside it round.
const plain = Joi.string()
  .max(4000)
  .pattern(/^(?:[^\p{Cc}\u202a-\u202e\u2066-\u2069]|[\r\n\t])*$/u, 'plain text');

const body = Joi.object<{ text: string; circle: Circle; wrong?: Doubt }>({
  text: Joi.when('wrong', {
    is: Joi.exist(),
    then: plain.allow('').default(''),
    otherwise: plain.pattern(/\S/, 'a text that says something').required(),
  }),
  circle: circle.required(),
  wrong: Joi.object({ column: Joi.string().max(300).required(), meant: Joi.any() }),
});

const talk = form<Talk>({
  comments: listOf(form<CommentTold>({ ...hungTold, text: saidOrNull, wrong: doubtTold.optional() })),
  earlier: whole,
  writes: listOf(circle),
});

/** What is said of records by those who see them. */
export function commentEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  return {
    comments: endpoint({
      method: 'GET',
      path: '/records/:table/:id/comments',
      says: 'What was said of a record, as far as you may read it: the newest, or those before one.',
      entry,
      query: Joi.object<{ before: number | null }>({ before: Joi.number().integer().min(1).allow(null).default(null) }),
      answers: { 200: talk },
      does: ({ visit, params: { table, id }, query: { before } }) => talkOf(visit, table, id, before),
    }),
    say: endpoint({
      method: 'POST',
      path: '/records/:table/:id/comments',
      says:
        'Says something of a record, to all who read there or among those of the inner circle; maybe that a value of ' +
        'it is wrong.',
      entry,
      body,
      answers: { 201: form<{ id: number }>({ id: whole }) },
      does: async ({ visit, params: { table, id }, body: given }) => {
        refuseSeenBy(visit);
        return reply(201, { id: await say(visit, table, id, given) });
      },
    }),
    takeBackSaid: endpoint({
      method: 'DELETE',
      path: '/records/:table/:id/comments/:comment',
      says: 'Takes out a comment: your own, or anybody’s where you may.',
      entry,
      params: { comment: ownNumber },
      answers: { 204: null },
      does: async ({ visit, params: { table, id, comment } }) => {
        refuseSeenBy(visit);
        await takeBackSaid(visit, table, id, comment);
      },
    }),
  };
}
