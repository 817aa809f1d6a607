import { Op } from 'sequelize';
import type { CoreServices } from '../definitions/portal-services';
import { inTurns, type Turns } from '../outbox/turns';
import { Portal } from '../store/models';
import { PeopleState } from '../store/people-models';
import { refreshPortal } from './refresh-job';

/** A portal's list of members is brought in line so often, and after a publish. */
const every = 5 * 60_000;
/** So often it is looked whether one is due; servers look at moments of their own. */
const lookEvery = 30_000;

/**
 * Keeps the lists of members right in the background, on whichever server comes first. Rights never wait for it: they
 * are read with each request. Sends no mail.
 */
export function followRosters(services: CoreServices): Turns {
  return inTurns(async (isClosed) => {
    for (const portal of await duePortals(new Date())) {
      if (isClosed()) return;
      try {
        await services.followRights();
        await refreshPortal(services, portal);
      } catch (error) {
        // Tried again when it is due; who is at the door is told what is wrong.
        services.log.warn({ portal: portal.slug, reason: (error as Error).name }, 'members not refreshed');
      }
    }
  }, lookEvery);
}

/**
 * The published portals whose members were last looked at long ago, taken so that no other server looks as well. Before
 * a portal is published only its builders' presses bring members.
 */
async function duePortals(now: Date): Promise<Portal[]> {
  const due: Portal[] = [];
  const long = new Date(now.getTime() - every);
  for (const portal of await Portal.findAll({ where: { publishedVersion: { [Op.ne]: null } } })) {
    await PeopleState.bulkCreate([{ portalId: portal.id }], { ignoreDuplicates: true });
    const [taken] = await PeopleState.update(
      { refreshedAt: now },
      { where: { portalId: portal.id, [Op.or]: [{ refreshedAt: null }, { refreshedAt: { [Op.lt]: long } }] } },
    );
    if (taken === 1) due.push(portal);
  }
  return due;
}
