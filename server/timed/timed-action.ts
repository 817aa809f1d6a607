import type { TimedAction } from '../../core/definition/action';
import type { CoreServices } from '../definitions/portal-services';
import { actOnDue, at, type DueBatch } from '../gate/gate';
import { OutcomeUnknown } from '../sources/outcome-unknown';
import { TimedRun } from '../store/timed-models';
import { absentServiceVisit } from '../visits/service-visit';

/** With so many records an action is done in one transaction. */
const atATime = 100;

/**
 * Does an action of a time with all records for which it holds, from where the run is: its place is kept with the
 * records, so that after a fault nothing is done twice and nothing is left out.
 */
export async function doTimedAction(
  services: CoreServices,
  run: TimedRun,
  action: TimedAction,
  isClosed: () => boolean,
): Promise<void> {
  const { id, portalId, takenBy } = run;
  const mine = { id, takenBy, state: 'running' as const };
  await settleUnsure(run);
  if (run.state !== 'running') return;
  for (let from = run.place; ;) {
    const visit = await at(await absentServiceVisit(services, portalId, action.roles[0] ?? ''), action.table);
    const current = visit.definition.actions?.find((each) => each.id === action.id);
    if (current?.on?.what !== 'time') {
      await TimedRun.update({ state: 'failed', problem: 'It was taken away meanwhile.' }, { where: mine });
      return;
    }
    const schema = services.sources.beside(visit.definition, action.table);
    const batch = await actOnDue(visit.source, visit, current as TimedAction, {
      from,
      atMost: atATime,
      beside: schema === null ? null : { schema, run: id, by: takenBy! },
      beforeKeeping: async (of) => {
        const [kept] = await TimedRun.update(
          { goingTo: JSON.stringify({ place: of.place, done: of.done }), beatAt: new Date() },
          { where: mine },
        );
        if (kept !== 1) throw new Error('another server goes on with this');
      },
    }).catch(async (error: unknown) => {
      // What was surely not kept is done when it is tried again.
      if (!(error instanceof OutcomeUnknown)) await TimedRun.update({ goingTo: null }, { where: mine });
      throw error;
    });
    if (schema === null) await keptElsewhere(run, batch);
    if (batch.place === null) {
      await TimedRun.update({ endedAt: new Date() }, { where: { id } });
      return;
    }
    if (isClosed()) return;
    from = batch.place;
  }
}

async function keptElsewhere(run: TimedRun, { place, done, refused, why }: DueBatch): Promise<void> {
  await run.reload();
  await run.update({
    place,
    goingTo: null,
    done: run.done + done,
    refused: run.refused + refused,
    problem: run.problem ?? why?.slice(0, 1000) ?? null,
    state: place === null ? 'done' : 'running',
    beatAt: new Date(),
  });
}

/** What was being kept elsewhere when a server was stopped is done, or is not: it is not done a second time. */
async function settleUnsure(run: TimedRun): Promise<void> {
  if (run.goingTo === null) return;
  const { place, done } = JSON.parse(run.goingTo) as { place: string | null; done: number };
  const problem = `The server was stopped while it saved: nobody knows whether it was done with ${done} records.`;
  await run.update({
    place,
    goingTo: null,
    problem: run.problem ?? problem,
    ...(place === null ? { state: 'unsure' as const, endedAt: new Date() } : {}),
  });
}
