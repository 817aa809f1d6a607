import { randomBytes } from 'node:crypto';
import Joi from 'joi';
import { Op, type WhereOptions } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { writeAudit } from '../audit/audit';
import { openDraft, type BenchServices, type OpenDraft } from '../bench/bench';
import { NotFound } from '../gate/gate';
import { form, listOf, moment, said, saidOrNull, whole, wholeOrNull, yesNo } from '../http/answers';
import { endpoint, ownNumber } from '../http/endpoint';
import { OutsideCall } from '../store/call-models';
import { CallFailed } from '../outside/call-out';

/** A call in a list. */
export interface CallEntry {
  id: number;
  action: string;
  address: string;
  table: string;
  /** Null to builders who are kept from personal data. */
  record: string | null;
  state: OutsideCall['state'];
  tries: number;
  /** Of the last answer; null where there was none. */
  status: number | null;
  problem: string | null;
  madeAt: string;
  /** When it is tried next; null where it isn't. */
  nextTry: string | null;
  doneAt: string | null;
}

export interface CallPage {
  calls: CallEntry[];
  /** Where the next page goes on; null at the end. */
  before: number | null;
  /** How many there are of each state. */
  counts: Partial<Record<OutsideCall['state'], number>>;
}

/** A call with what it told and was answered; null to builders who are kept from personal data. */
export interface CallInfo extends CallEntry {
  onceKey: string;
  body: string | null;
  answer: string | null;
}

/** What came of trying an address. */
export interface TriedAddress {
  fine: boolean;
  status: number | null;
  words: string;
}

const pageSize = 50;
const states = ['held', 'waiting', 'sending', 'done', 'given up', 'unsure'] as const;
const shownAnswer = 2000;

const entryKeys = {
  id: whole,
  action: said,
  address: said,
  table: said,
  record: saidOrNull,
  state: Joi.valid(...states),
  tries: whole,
  status: wholeOrNull,
  problem: saidOrNull,
  madeAt: moment,
  nextTry: moment.allow(null),
  doneAt: moment.allow(null),
};

/** Addresses outside that actions call: their secrets, trying them, and what became of each call. */
export function callEndpoints(services: BenchServices) {
  const draft = openDraft(services);
  const { outsideCalls, caller } = services;

  return {
    calls: endpoint({
      method: 'GET',
      path: '/calls',
      says: 'The calls of a portal to addresses outside, the newest first, each with what became of it.',
      entry: draft,
      query: Joi.object<{ state: OutsideCall['state'] | null; before: number | null }>({
        state: Joi.valid(...states).default(null),
        before: ownNumber.default(null),
      }),
      answers: {
        200: form<CallPage>({
          calls: listOf(form<CallEntry>(entryKeys)),
          before: wholeOrNull,
          counts: Joi.object().unknown(),
        }),
      },
      does: async ({ draft: at, query: { state, before } }): Promise<CallPage> => {
        const { portal } = at;
        const where = {
          portalId: portal.id,
          ...(state === null ? {} : { state }),
          ...(before === null ? {} : { id: { [Op.lt]: before } }),
        } as WhereOptions<OutsideCall>;
        const found = await OutsideCall.findAll({ where, order: [['id', 'DESC']], limit: pageSize + 1 });
        const counted = await OutsideCall.count({ where: { portalId: portal.id }, group: ['state'] });
        return {
          calls: found.slice(0, pageSize).map((each) => entryOf(at, each)),
          before: found.length > pageSize ? found[pageSize - 1]!.id : null,
          counts: Object.fromEntries(counted.map(({ state: of, count }) => [String(of), Number(count)])),
        };
      },
    }),
    call: endpoint({
      method: 'GET',
      path: '/calls/:call',
      says: 'One call with what it told, and what it was answered; neither is told who is kept from personal data.',
      entry: draft,
      params: { call: ownNumber },
      answers: {
        200: form<CallInfo>({ ...entryKeys, onceKey: said, body: saidOrNull, answer: saidOrNull }),
      },
      does: async ({ draft: at, params }): Promise<CallInfo> => {
        const call = await callOf(at, params.call);
        const { onceKey, body, answer } = call;
        const open = at.withoutSight !== true;
        return { ...entryOf(at, call), onceKey, body: open ? body : null, answer: open ? answer : null };
      },
    }),
    callAgain: endpoint({
      method: 'POST',
      path: '/calls/:call/again',
      says: 'Makes a call again that was given up or may not have arrived, under the same id.',
      entry: draft,
      params: { call: ownNumber },
      answers: { 204: null },
      does: async ({ draft: at, params, signed }) => {
        const call = await callOf(at, params.call);
        if (call.state !== 'given up' && call.state !== 'unsure')
          throw new Problem(
            409,
            'call-state',
            'Only a call that was given up, or that may not be meant, is made again.',
          );
        await call.update({ state: 'waiting', nextTry: new Date(), madeAt: new Date(), problem: null });
        await writeAudit(at.portal.id, signed, 'made a call again', `to ${call.address}, ${call.onceKey}`);
        outsideCalls.wake();
      },
    }),
    addressSecret: endpoint({
      method: 'POST',
      path: '/addresses/:address/secret',
      says: 'Makes another secret that calls to an address are signed with; it is told here, and never again.',
      entry: draft,
      answers: { 200: form<{ secret: string }>({ secret: said }) },
      does: async ({ draft: at, params: { address }, signed }) => {
        addressOf(at, address);
        const secret = await caller.secrets.renew(at.portal.id, address);
        await writeAudit(at.portal.id, signed, 'set a secret', `of the address ${address}`);
        return { secret };
      },
    }),
    tryAddress: endpoint({
      method: 'POST',
      path: '/addresses/:address/try',
      says: 'Calls an address of the draft at once with a sample, and says what it answered.',
      entry: draft,
      body: Joi.object<{ data: Record<string, unknown> }>({
        data: Joi.object<Record<string, unknown>>().pattern(Joi.string().max(60), Joi.any()).max(100).default({}),
      }),
      answers: { 200: form<TriedAddress>({ fine: yesNo, status: wholeOrNull, words: said }) },
      does: async ({ draft: at, params: { address }, body }): Promise<TriedAddress> => {
        const to = addressOf(at, address);
        const sample = { type: 'try', timestamp: new Date().toISOString(), data: body.data };
        const onceKey = `try_${randomBytes(16).toString('hex')}`;
        try {
          const call = { portalId: at.portal.id, onceKey, body: JSON.stringify(sample) };
          const { status, text } = await caller.call(to, call);
          const said = text.trim() === '' ? 'nothing more' : text.slice(0, shownAnswer);
          return { fine: status >= 200 && status < 300, status, words: `It answered ${status}: ${said}` };
        } catch (error) {
          if (!(error instanceof CallFailed)) throw error;
          return { fine: false, status: null, words: error.message };
        }
      },
    }),
  };
}

/** Which record it is of may be personal as well: a key can be an address. */
const entryOf = ({ withoutSight }: OpenDraft, call: OutsideCall): CallEntry => ({
  id: call.id,
  action: call.action,
  address: call.address,
  table: call.tableName,
  record: withoutSight ? null : call.recordId,
  state: call.state,
  tries: call.tries,
  status: call.status,
  problem: call.problem,
  madeAt: call.madeAt.toISOString(),
  nextTry: call.state === 'waiting' ? call.nextTry.toISOString() : null,
  doneAt: call.doneAt?.toISOString() ?? null,
});

async function callOf({ portal }: OpenDraft, id: number): Promise<OutsideCall> {
  const call = await OutsideCall.findOne({ where: { portalId: portal.id, id } });
  if (!call) throw new NotFound('call');
  return call;
}

function addressOf({ definition }: OpenDraft, id: string) {
  const found = definition.addresses?.find((each) => each.id === id);
  if (!found) throw new NotFound('address');
  return found;
}
