import Joi from 'joi';
import { stewardName } from '../../core/definition/steward-words';
import { writeAudit } from '../audit/audit';
import { countHandOver } from '../gate/gate';
import { form, listOf, moment, said, whole } from '../http/answers';
import { endpoint, ownNumber, reply, type Entry } from '../http/endpoint';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import {
  atHandOver,
  choices,
  doHandOver,
  ownHandOvers,
  undoHandOver,
  type AtHandOver,
  type Choice,
  type HandOverInfo,
} from './hand-overs';

const counted = listOf(form<{ table: string; records: number }>({ table: said, records: whole }));

const info = form<HandOverInfo>({
  id: whole,
  at: moment,
  from: said,
  to: said,
  tables: counted,
  until: moment.allow(null),
  undone: form<NonNullable<HandOverInfo['undone']>>({
    at: moment,
    back: whole,
    left: listOf(form<{ table: string; id: string; why: string }>({ table: said, id: said, why: said })),
  }).allow(null),
});

const sum = ({ tables }: Pick<HandOverInfo, 'tables'>) =>
  tables.map(({ table, records }) => `${records} ${table}`).join(', ');
const signed = ({ visit, steward }: AtHandOver) =>
  `${visit.name} <${visit.person.email}>, ${stewardName(visit.definition, steward)}`;

/** Records that go from one person to another, by a steward, and back again within a day. */
export function handOverEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  const steward = Joi.string().max(64).required();
  const person = Joi.string().max(1000).required();
  return {
    handOverChoices: endpoint({
      method: 'GET',
      path: '/hand-over/:steward/people',
      says: 'Those from whom and to whom records can be handed over.',
      entry,
      params: { steward },
      query: Joi.object<{ search: string }>({ search: Joi.string().max(200).allow('').trim().default('') }),
      answers: { 200: form<{ people: Choice[] }>({ people: listOf(form<Choice>({ id: said, name: said })) }) },
      does: async ({ visit, params, query }) => ({
        people: await choices(await atHandOver(visit, params.steward), query.search),
      }),
    }),
    handOverCounts: endpoint({
      method: 'GET',
      path: '/hand-over/:steward/counts',
      says: 'How many records of somebody can be handed over, by table.',
      entry,
      params: { steward },
      query: Joi.object<{ from: string }>({ from: person }),
      answers: { 200: form<{ tables: { table: string; records: number }[] }>({ tables: counted }) },
      does: async ({ visit: asked, params, query: { from } }) => {
        const { visit, steward: by } = await atHandOver(asked, params.steward);
        return { tables: await countHandOver(visit.source, visit, by, from) };
      },
    }),
    handOvers: endpoint({
      method: 'GET',
      path: '/hand-over/:steward',
      says: 'What you handed over within a day.',
      entry,
      params: { steward },
      answers: { 200: form<{ done: HandOverInfo[] }>({ done: listOf(info) }) },
      does: async ({ visit, params }) => ({ done: await ownHandOvers(await atHandOver(visit, params.steward)) }),
    }),
    handOver: endpoint({
      method: 'POST',
      path: '/hand-over/:steward',
      says: 'Hands all records of one person that can be over to another, all or nothing.',
      entry,
      params: { steward },
      body: Joi.object<{ from: string; to: string }>({ from: person, to: person }),
      answers: { 201: info },
      does: async ({ visit, params, body: { from, to } }) => {
        refuseSeenBy(visit);
        const at = await atHandOver(visit, params.steward);
        const done = await doHandOver(at, from, to);
        await writeAudit(visit.portalId, signed(at), 'handed over', `${sum(done)} from ${done.from} to ${done.to}`);
        return reply(201, done);
      },
    }),
    undoHandOver: endpoint({
      method: 'POST',
      path: '/hand-over/:steward/:done/undo',
      says: 'Takes back what is still as it was then, and says what it left.',
      entry,
      params: { steward, done: ownNumber },
      answers: { 200: info },
      does: async ({ visit, params }) => {
        refuseSeenBy(visit);
        const at = await atHandOver(visit, params.steward);
        const undone = await undoHandOver(at, params.done);
        const left = undone.undone?.left.length ?? 0;
        await writeAudit(
          visit.portalId,
          signed(at),
          'took a hand-over back',
          `${undone.undone?.back ?? 0} from ${undone.to} to ${undone.from}${left > 0 ? `; ${left} left` : ''}`,
        );
        return undone;
      },
    }),
  };
}
