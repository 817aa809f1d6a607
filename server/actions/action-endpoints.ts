import Joi from 'joi';
import { actionsOf, mostAtOnce, valuesSet } from '../../core/definition/action';
import { act, actWithEach, at, NotFound, read, sayOutcome, type Acted } from '../gate/gate';
import { form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { openRecord } from '../records/record-answers';
import { text } from '../records/record-question';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import type { Outbox } from '../outbox/outbox';
import { withMails } from './leave-mails';
import { once, pressId } from './presses';

/** What became of one record of several: done, or the problem (RFC 9457) that it would have been refused with alone. */
export type ActOutcome =
  | { id: string; done: true }
  | { id: string; done: false; status: number; detail: string; type: string };

const values = Joi.object<Record<string, unknown>>().pattern(Joi.string().max(300), Joi.any()).max(300);
const asked = values.default({});
const query = Joi.object<{ trial: boolean }>({ trial: Joi.boolean().default(false) });

const made = listOf(form<Acted['made'][number]>({ table: said, id: saidOrNull }));

/** Presses; in Seen by they can only be tried. */
export function actionEndpoints(entry: Entry<{ visit: PortalVisit }>, outbox: Outbox) {
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
      answers: { 200: form<Acted>({ record: openRecord.allow(null), made }) },
      does: async ({ visit: asking, params: { table, id, action }, query: { trial }, body }) => {
        const visit = await tried(asking, table, trial);
        const sent = { asked: body.asked, seen: body.seen };
        if (trial) return act(visit.source, visit, table, id, action, sent, { trial });
        // What was seen of the record is not kept with the press; it is read again where that comes again.
        let now: Acted['record'] | undefined;
        const done = await once(visit, [table, id, action], body.press, async () => {
          const acted = await withMails(outbox, asking, action, body.press, (leave) =>
            act(visit.source, visit, table, id, action, sent, { leave }),
          );
          now = acted.record;
          await tellAddress(visit, table, id, action);
          return { made: acted.made };
        });
        if (now === undefined) now = await read(visit.source, visit, table, id).catch(orNull);
        return { record: now, made: done.made };
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
        200: form<{ outcomes: ActOutcome[] }>({
          outcomes: Joi.array<ActOutcome[]>().items(
            form<ActOutcome & { done: true }>({ id: said, done: Joi.valid(true) }),
            form<ActOutcome & { done: false }>({
              id: said,
              done: yesNo,
              status: Joi.number().integer(),
              detail: said,
              type: said,
            }).unknown(),
          ),
        }),
      },
      does: async ({ visit: asking, params: { table, action }, query: { trial }, body }) => {
        const visit = await tried(asking, table, trial);
        const work = async () => {
          const done = await actWithEach(
            visit.source,
            visit,
            table,
            body.ids,
            action,
            { asked: body.asked },
            { trial },
          );
          for (const [i, each] of done.entries())
            if (each.done && !trial) await tellAddress(visit, table, body.ids[i]!, action);
          return done.map((each, i): ActOutcome =>
            each.done
              ? { id: body.ids[i]!, done: true }
              : { ...(sayOutcome(each) as Omit<ActOutcome & { done: false }, 'id'>), id: body.ids[i]! },
          );
        };
        return { outcomes: trial ? await work() : await once(visit, [table, action], body.press, work) };
      },
    }),
  };
}

const orNull = (error: unknown): null => {
  if (error instanceof NotFound) return null;
  throw error;
};

/** Where an action wrote an address into a row of a roster, whoever was known by the one before is told. */
async function tellAddress(visit: PortalVisit, table: string, id: string, actionId: string): Promise<void> {
  const roster = visit.definition.rosters.find((each) => each.table === table);
  const action = actionsOf(visit.definition.actions, table).find((each) => each.id === actionId);
  if (!roster || !action || !Object.hasOwn(valuesSet(action), roster.email)) return;
  const now = await read(visit.source, visit, table, id, [[roster.email]]).catch(orNull);
  await visit.addressWritten?.({ roster: table, key: id }, String(now?.values[roster.email] ?? ''));
}
