import { randomBytes } from 'node:crypto';
import { Op } from 'sequelize';
import { dayIn, timeIn } from '../../core/access/person';
import { timedActions } from '../../core/definition/action';
import type { PortalDefinition } from '../../core/definition/definition';
import { beginBringing } from '../brought/begin-bringing';
import type { CoreServices } from '../definitions/portal-services';
import type { Jobs } from '../jobs/jobs';
import { inTurns, type Turns } from '../outbox/turns';
import { Portal, Version } from '../store/models';
import { TimedRun } from '../store/timed-models';
import { beginRun, isBegun, isOver, leftBehind, type RunOf } from './runs';
import { doTimedAction } from './timed-action';

const lookEvery = 20_000;
/** So long it is tried again what fails. */
const longest = 6 * 3_600_000;
/** So many ends are remembered. */
const remembered = 5000;

type TimedServices = CoreServices & { jobs: Jobs };

/** Does what is to be done each day at a time, on whichever server comes first. */
export function doTimed(services: TimedServices): Turns {
  const turn = timedTurn(services);
  const turns = inTurns((isClosed) => turn(new Date(), isClosed), lookEvery);
  turns.wake();
  return turns;
}

/** One look at all that is due at a moment, by whoever holds it. */
export function timedTurn(services: TimedServices): (now: Date, isClosed?: () => boolean) => Promise<void> {
  const me = randomBytes(8).toString('hex');
  const over = new Set<string>();
  return async (now, isClosed = () => false) => {
    if (over.size > remembered) over.clear();
    for (const portal of await publishedPortals()) {
      const definition = await services.definitions.version(portal.id, portal.publishedVersion!);
      const { timeZone } = definition.portal;
      const [day, time] = [dayIn(now, timeZone), timeIn(now, timeZone)];
      const timed = timedOf(services, definition);
      for (const { at, subject, does, kind } of timed) {
        const of: RunOf = { portalId: portal.id, kind, subject, day };
        const key = JSON.stringify(Object.values(of));
        if (isClosed()) return;
        if (time < at || over.has(key)) continue;
        if (await isLate(portal, of, at, timeZone)) continue;
        const run = await beginRun(of, me, now);
        if (run) await doOne(services, run, () => does(run, isClosed));
        if (await isOver(of)) over.add(key);
      }
      if (isClosed()) return;
      for (const run of await leftBehind(portal.id, me, now)) {
        const found = timed.find(({ kind, subject }) => kind === run.kind && subject === run.subject);
        if (!found) await run.update({ state: 'failed', problem: 'It was taken away meanwhile.', endedAt: now });
        else if (now.getTime() - run.begunAt.getTime() > longest) await run.update({ state: 'failed', endedAt: now });
        else await doOne(services, run, () => found.does(run, isClosed));
      }
    }
  };
}

type PublishedPortal = Pick<Portal, 'id' | 'publishedVersion'>;

/** Of all portals what is needed here: their drafts may be large, and this is asked all the time. */
const publishedPortals = (): Promise<PublishedPortal[]> =>
  Portal.findAll({
    where: { publishedVersion: { [Op.ne]: null } },
    attributes: ['id', 'publishedVersion'],
    order: [['id', 'ASC']],
  });

interface Timed {
  kind: TimedRun['kind'];
  subject: string;
  at: string;
  does(run: TimedRun, isClosed: () => boolean): Promise<void>;
}

const timedOf = (services: TimedServices, definition: PortalDefinition): Timed[] => [
  ...timedActions(definition).map((action) => ({
    kind: 'action' as const,
    subject: action.id,
    at: action.on.at,
    does: (run: TimedRun, isClosed: () => boolean) => doTimedAction(services, run, action, isClosed),
  })),
  ...(definition.brought ?? []).map(({ id, at }) => ({
    kind: 'brought' as const,
    subject: id,
    at,
    does: (run: TimedRun) => beginBringing(services.jobs, run),
  })),
];

/** What is published after its time is done on the next day for the first time. */
async function isLate(portal: PublishedPortal, of: RunOf, at: string, timeZone: string): Promise<boolean> {
  const where = { portalId: portal.id, number: portal.publishedVersion! };
  const version = await Version.findOne({ where, attributes: ['publishedAt'] });
  const published = version!.publishedAt;
  const isToday = dayIn(published, timeZone) === of.day && timeIn(published, timeZone) >= at;
  return isToday && !(await isBegun(of));
}

/** What fails is tried again in some minutes, from where it is, and given up after hours. */
async function doOne(services: TimedServices, run: TimedRun, does: () => Promise<void>): Promise<void> {
  try {
    await does();
  } catch (error) {
    services.log.warn({ run: run.id, reason: (error as Error).name }, 'what is done at a time failed');
    await TimedRun.update(
      { problem: `It could not be done: ${(error as Error).message}`.slice(0, 1000) },
      { where: { id: run.id, takenBy: run.takenBy, state: 'running' } },
    ).catch(() => undefined);
  }
}
