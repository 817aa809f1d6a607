import { text } from './record-question';
import { printPath } from '../../core/definition/path';
import { bringTalkBack, closeTalk, heldBefore } from '../comments/talk-of-deleted';
import {
  at,
  create,
  edit,
  NotFound,
  openTable,
  viewSql,
  type Changes,
  remove,
  several,
  type Write,
  sayOutcome,
} from '../gate/gate';
import Joi from 'joi';
import { endpoint, reply, type Entry } from '../http/endpoint';
import { onceKept } from '../sources/outcome-unknown';
import { madeOnce, refuseChanged } from './conditional';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import { createdAnswer, outcomes, writtenAnswer, type Outcome } from './record-answers';

const changesSchema = Joi.object<Changes>()
  .pattern(Joi.string().max(64), Joi.object({ from: Joi.any().required(), to: Joi.any().required() }))
  .min(1)
  .max(300);

const valuesSchema = Joi.object<Record<string, unknown>>().pattern(Joi.string().max(64), Joi.any()).max(300);

/** One of several: a record that is made may stand in the place of one that this person deleted, which undoes that. */
type SeveralWrite = Write & { inPlaceOf?: string };

const severalBody = Joi.object<{ writes: SeveralWrite[]; mode: 'all or nothing' | 'each by itself' }>({
  writes: Joi.array()
    .items(
      Joi.object({ create: valuesSchema.required(), inPlaceOf: text(1000) }),
      Joi.object({ edit: text(1000).required(), changes: changesSchema.required() }),
      Joi.object({ delete: text(1000).required(), seen: valuesSchema }),
    )
    .min(1)
    .max(500)
    .required(),
  mode: Joi.valid('all or nothing', 'each by itself').default('all or nothing'),
});

/** Whether it is only tried, and taken back. */
const query = Joi.object<{ trial: boolean }>({ trial: Joi.boolean().default(false) });

/** Where an address was written into a row of a roster, whoever was known by the one before is told. */
async function tellAddress(visit: PortalVisit, table: string, id: string, changes: Changes): Promise<void> {
  const roster = visit.definition.rosters.find((each) => each.table === table);
  const written = roster && changes[roster.email];
  if (written && visit.addressWritten)
    await onceKept(visit.addressWritten({ roster: table, key: id }, String(written.to ?? '')));
}

/** What was said of the records of several writes, once they are done. */
async function followWrites(
  visit: PortalVisit,
  table: string,
  writes: readonly SeveralWrite[],
  done: Awaited<ReturnType<typeof several>>,
  held: ReadonlyMap<string, string> | undefined,
): Promise<void> {
  const kept = writes.flatMap((write, i) => {
    const outcome = done[i]!;
    return outcome.done ? [{ write, id: outcome.id }] : [];
  });
  const begunOrEnded = kept.flatMap(({ write, id }) =>
    'delete' in write ? [write.delete] : 'create' in write && id !== null ? [id] : [],
  );
  await closeTalk(visit, table, begunOrEnded, held);
  for (const { write, id } of kept)
    if ('create' in write && write.inPlaceOf !== undefined && id !== null)
      await bringTalkBack(visit, table, write.inPlaceOf, id);
}

/** What a move changes. One that there isn't is answered as a record that there isn't. */
function moved({ definition }: PortalVisit, table: string, id: string): Changes {
  for (const { table: of, column, moves } of definition.lifecycles ?? []) {
    const move = of === table ? moves.find((each) => each.id === id) : undefined;
    if (move) return { [printPath([column])]: { to: move.to } };
  }
  throw new NotFound();
}

/** Records made, changed and deleted, one or several; in Seen by all of it can only be tried. */
export function writeEndpoints(entry: Entry<{ visit: PortalVisit }>) {
  const tried = async (asked: PortalVisit, table: string, trial: boolean): Promise<PortalVisit> => {
    const visit = await at(asked, table);
    if (!trial) refuseSeenBy(visit);
    return visit;
  };
  return {
    change: endpoint({
      method: 'PATCH',
      path: '/records/:table/:id',
      says: 'Changes a record; `from` is what was seen, so that nobody writes over what they did not see.',
      entry,
      query,
      body: Joi.object<{ changes: Changes }>({ changes: changesSchema.required() }),
      answers: { 200: writtenAnswer },
      does: async ({ visit: asked, params: { table, id }, query: { trial }, body: { changes }, req }) => {
        const visit = await tried(asked, table, trial);
        await refuseChanged(req, visit, table, id);
        const record = await edit(visit.source, visit, table, id, changes, { trial });
        if (!trial) await tellAddress(visit, table, id, changes);
        return { record };
      },
    }),
    move: endpoint({
      method: 'POST',
      path: '/records/:table/:id/moves/:move',
      says: 'Takes a record from one state of its lifecycle to the next, with what the move asks for.',
      entry,
      query,
      body: Joi.object<{ changes: Changes }>({ changes: changesSchema.min(0).default({}) }),
      answers: { 200: writtenAnswer },
      does: async ({ visit: asked, params: { table, id, move }, query: { trial }, body: { changes } }) => {
        const visit = await tried(asked, table, trial);
        openTable(visit, viewSql(visit), table);
        const record = await edit(
          visit.source,
          visit,
          table,
          id,
          { ...changes, ...moved(visit, table, move) },
          { trial },
        );
        if (!trial) await tellAddress(visit, table, id, changes);
        return { record };
      },
    }),
    create: endpoint({
      method: 'POST',
      path: '/records/:table',
      says: 'Makes a record, once however often the same `Idempotency-Key` comes.',
      entry,
      query,
      body: Joi.object<{ values: Record<string, unknown> }>({ values: valuesSchema.required() }),
      answers: { 200: createdAnswer, 201: createdAnswer },
      does: async ({ visit: asked, params: { table }, query: { trial }, body: { values }, req }) => {
        const visit = await tried(asked, table, trial);
        if (trial) return reply(200, await create(visit.source, visit, table, values, { trial }));
        const made = await madeOnce(req, visit, table, values, async () => {
          const now = await create(visit.source, visit, table, values);
          if (now.id !== null) await onceKept(closeTalk(visit, table, [now.id]));
          return now;
        });
        return reply(201, made);
      },
    }),
    delete: endpoint({
      method: 'DELETE',
      path: '/records/:table/:id',
      says: 'Deletes a record; `seen` holds values that must still stand there.',
      entry,
      query,
      body: Joi.object<{ seen: Record<string, unknown> }>({ seen: valuesSchema.default({}) }),
      answers: { 204: null },
      does: async ({ visit: asked, params: { table, id }, query: { trial }, body: { seen } }) => {
        const visit = await tried(asked, table, trial);
        const held = trial ? undefined : await heldBefore(visit, table, [id]);
        await remove(visit.source, visit, table, id, seen, { trial });
        if (!trial) await onceKept(closeTalk(visit, table, [id], held));
      },
    }),
    several: endpoint({
      method: 'POST',
      path: '/records/:table/several',
      says: 'Makes several writes, all or nothing or each by itself, and says what became of each.',
      entry,
      query,
      body: severalBody,
      answers: { 200: outcomes },
      does: async ({ visit: asked, params: { table }, query: { trial }, body: { writes, mode } }) => {
        const visit = await tried(asked, table, trial);
        const deleted = writes.flatMap((write) => ('delete' in write ? [write.delete] : []));
        const held = trial ? undefined : await heldBefore(visit, table, deleted);
        const done = await several(visit.source, visit, table, writes, mode, { trial });
        for (const [i, write] of writes.entries())
          if (!trial && 'edit' in write && done[i]!.done) await tellAddress(visit, table, write.edit, write.changes);
        if (!trial) await onceKept(followWrites(visit, table, writes, done, held));
        return { outcomes: done.map((each) => sayOutcome(each) as Outcome) };
      },
    }),
  };
}
