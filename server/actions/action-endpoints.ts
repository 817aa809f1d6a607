import Joi from 'joi';
import { callsOf, mostAtOnce } from '../../core/definition/action';
import {
  act,
  actWithEach,
  at,
  NotFound,
  read,
  sayOutcome,
  takeBackActs,
  type Acted,
  type Leaving,
  type Outcome,
} from '../gate/gate';
import { form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { openRecord } from '../records/record-answers';
import { text } from '../records/record-question';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import type { OutsideCall } from '../store/call-models';
import type { CoreServices } from '../definitions/portal-services';
import { leaverOf } from '../leaving/leaver';
import { once, pressId, takeBackOnce, type NotePress } from '../presses/presses';
import { tellAddress } from './tell-address';
import { wouldLeaveAnswer, wouldLeaveTold, type WouldLeave } from './would-leave';

/** What became of one record of several: done, or the problem (RFC 9457) that it would have been refused with alone. */
export type ActOutcome =
  | { id: string; done: true }
  | { id: string; done: false; status: number; detail: string; type: string };

const values = Joi.object<Record<string, unknown>>().pattern(Joi.string().max(300), Joi.any()).max(300);
const asked = values.default({});
const query = Joi.object<{ trial: boolean }>({ trial: Joi.boolean().default(false) });

/** So long an answer is waited for that goes into the record, in milliseconds. */
const waitsFor = 12_000;

/** What became of a call whose answer goes into the record. */
export interface CallTold {
  to: string;
  state: 'done' | 'waiting' | 'failed';
  /** What is wrong, in words for whoever pressed; why it is, is for the portal's keeper. */
  problem: string | null;
}

/** What came of a press, with the calls that were waited for. */
export type ActedTold = Omit<Acted, 'takesBack'> & {
  calls: CallTold[];
  /** Whether it can be taken back for some minutes, as long as nobody changes it. */
  undoable: boolean;
  wouldLeave?: WouldLeave[];
};

const calls = listOf(form<CallTold>({ to: said, state: Joi.valid('done', 'waiting', 'failed'), problem: saidOrNull }));
const made = listOf(form<Acted['made'][number]>({ table: said, id: saidOrNull }));

const actOutcomes = Joi.array<ActOutcome[]>().items(
  form<ActOutcome & { done: true }>({ id: said, done: Joi.valid(true) }),
  form<ActOutcome & { done: false }>({
    id: said,
    done: yesNo,
    status: Joi.number().integer(),
    detail: said,
    type: said,
  }).unknown(),
);

/** Presses; in Seen by they can only be tried. */
export function actionEndpoints(entry: Entry<{ visit: PortalVisit }>, services: CoreServices) {
  const tried = async (visit: PortalVisit, table: string, trial: boolean): Promise<PortalVisit> => {
    if (!trial) refuseSeenBy(visit);
    return at(visit, table);
  };
  return {
    act: endpoint({
      method: 'POST',
      path: '/records/:table/:id/actions/:action',
      says: 'Does an action with a record, once however often the same `press` comes; `seen` is what was shown of it.',
      entry,
      query,
      body: Joi.object<{ asked: Record<string, unknown>; seen: Record<string, unknown>; press?: string }>({
        asked,
        seen: values.default({}),
        press: pressId,
      }),
      answers: {
        200: form<ActedTold>({
          record: openRecord.allow(null),
          made,
          calls,
          undoable: yesNo,
          wouldLeave: wouldLeaveAnswer.optional(),
        }),
      },
      does: async ({ visit: asking, params: { table, id, action }, query: { trial }, body }) => {
        const visit = await tried(asking, table, trial);
        const sent = { asked: body.asked, seen: body.seen };
        if (trial) {
          const left: WouldLeave[] = [];
          const options = { trial, wouldLeave: (of: Leaving) => void left.push(...wouldLeaveTold(asking, of)) };
          const { record, made: wouldMake } = await act(visit.source, visit, table, id, action, sent, options);
          return { record, made: wouldMake, calls: [], undoable: false, wouldLeave: left };
        }
        // What was seen of the record is not kept with the press; it is read again where that comes again.
        let now: Acted['record'] | undefined;
        const done = await once(visit, [table, id, action], body.press, async (note) => {
          const leaver = leaverOf(services, asking, body.press);
          const notes = body.press !== undefined;
          const acted = await act(visit.source, visit, table, id, action, sent, { leaver, notes });
          now = acted.record;
          await tellAddress(visit, table, id, action);
          note({ takesBack: acted.takesBack ? [acted.takesBack] : [] });
          return { made: acted.made, calls: leaver.calls, undoable: acted.takesBack !== undefined };
        });
        const waits = waitsForAnswer(visit, action) && done.calls.length > 0;
        // It is done by now: where the database is away since, that is no fault of it.
        const answered = waits ? await services.outsideCalls.afterAWhile(done.calls, waitsFor).catch(() => []) : [];
        if (now === undefined || waits)
          now = await read(visit.source, visit, table, id).catch((error: unknown) => {
            if (now !== undefined && !(error instanceof NotFound)) return now;
            return orNull(error);
          });
        const told = answered.flatMap((call) => callTold(visit, call));
        return { record: now, made: done.made, calls: told, undoable: done.undoable };
      },
    }),
    actWithSeveral: endpoint({
      method: 'POST',
      path: '/records/:table/actions/:action',
      says: 'Does an action with several records, as the action has it, and says what became of each.',
      entry,
      query,
      body: Joi.object<{ ids: string[]; asked: Record<string, unknown>; press?: string }>({
        ids: Joi.array().items(text(1000).required()).unique().min(1).max(mostAtOnce).required(),
        asked,
        press: pressId,
      }),
      answers: {
        200: form<{ outcomes: ActOutcome[]; undoable: boolean; wouldLeave?: WouldLeave[] }>({
          wouldLeave: wouldLeaveAnswer.optional(),
          undoable: yesNo,
          outcomes: actOutcomes,
        }),
      },
      does: async ({ visit: asking, params: { table, action }, query: { trial }, body }) => {
        const visit = await tried(asking, table, trial);
        const left: WouldLeave[] = [];
        const work = async (note: NotePress = () => undefined) => {
          const sent = { asked: body.asked };
          const options = trial
            ? { trial, wouldLeave: (of: Leaving) => void left.push(...wouldLeaveTold(asking, of)) }
            : { leaver: leaverOf(services, asking, body.press), notes: body.press !== undefined };
          const { outcomes: done, takesBack } = await actWithEach(
            visit.source,
            visit,
            table,
            body.ids,
            action,
            sent,
            options,
          );
          for (const [i, each] of done.entries())
            if (each.done && !trial) await tellAddress(visit, table, body.ids[i]!, action);
          note({ takesBack });
          return { outcomes: outcomesTold(done, body.ids), undoable: takesBack.length > 0 };
        };
        if (trial) return { ...(await work()), wouldLeave: left };
        return once(visit, [table, action], body.press, work);
      },
    }),
    undoAct: endpoint({
      method: 'POST',
      path: '/records/:table/actions/:action/undo',
      says: 'Takes back what you did by a press, with one record or with several, as long as nobody changed it since.',
      entry,
      body: Joi.object<{ press: string; id: string | null }>({
        press: pressId.required(),
        id: text(1000).allow(null).required(),
      }),
      answers: { 200: form<{ outcomes: ActOutcome[] }>({ outcomes: actOutcomes }) },
      does: async ({ visit: asking, params: { table, action }, body: { press, id } }) => {
        const visit = await tried(asking, table, false);
        const of = id === null ? [table, action] : [table, id, action];
        return takeBackOnce(visit, of, press, async (done) => {
          const outcomes = await takeBackActs(visit.source, visit, table, action, done);
          const ids = done.map((each) => each.id);
          const [first] = outcomes;
          if (id !== null && first && !first.done) throw first.error;
          for (const [i, each] of outcomes.entries()) if (each.done) await tellAddress(visit, table, ids[i]!, action);
          return { outcomes: outcomesTold(outcomes, ids) };
        });
      },
    }),
  };
}

const outcomesTold = (outcomes: readonly Outcome[], ids: readonly string[]): ActOutcome[] =>
  outcomes.map((each, i) =>
    each.done
      ? { id: ids[i]!, done: true }
      : { ...(sayOutcome(each) as Omit<ActOutcome & { done: false }, 'id'>), id: ids[i]! },
  );

/** Whether somebody waits for what an action's calls are answered. */
const waitsForAnswer = ({ definition }: PortalVisit, action: string): boolean =>
  (definition.actions ?? []).some((each) => each.id === action && callsOf(each).some(({ answers }) => answers));

const notPutIn = 'What it answered could not be put in.';
const notTold = 'It could not be told.';

/** A call as whoever pressed is told of it; of one whose answer goes nowhere nothing is. */
function callTold({ definition }: PortalVisit, { answers, address, state, problem }: OutsideCall): CallTold[] {
  if (!answers) return [];
  const failed = state === 'given up' || state === 'unsure' || (state === 'done' && problem !== null);
  return [
    {
      to: definition.addresses?.find(({ id }) => id === address)?.name ?? address,
      state: failed ? 'failed' : state === 'done' ? 'done' : 'waiting',
      problem: !failed ? null : `${state === 'done' ? notPutIn : notTold} The portal’s keeper sees why.`,
    },
  ];
}

const orNull = (error: unknown): null => {
  if (error instanceof NotFound) return null;
  throw error;
};
