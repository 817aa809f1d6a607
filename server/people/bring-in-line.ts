import type { CoreServices } from '../definitions/portal-services';
import { Portal } from '../store/models';
import { rostersFollowed } from './rosters-at';
import { holdPeople, settle, type Cluster } from './settle';

/** Brings some members in line with the rosters' rows at once. */
export async function bringInLine(services: CoreServices, portal: Pick<Portal, 'id'>, cluster: Cluster): Promise<void> {
  const rosters = await rostersFollowed(services, await Portal.findByPk(portal.id, { rejectOnEmpty: true }));
  await services.store.sequelize.transaction(async (transaction) => {
    await holdPeople(portal.id, transaction);
    await settle(portal.id, rosters, cluster, transaction);
  });
}
