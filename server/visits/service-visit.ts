import { servicePerson } from '../../core/access/person';
import type { CoreServices } from '../definitions/portal-services';
import { NotFound } from '../gate/gate';
import { historyKeeper } from '../leaving/keep-history';
import { leaverOf } from '../leaving/leaver';
import { Portal } from '../store/models';
import { standInKey } from '../store/stand-in';
import type { PortalVisit } from './member-visit';

/** The visit of a service by one of its roles, under what is published now, for what is done by itself. */
export async function absentServiceVisit(services: CoreServices, portalId: number, role: string): Promise<PortalVisit> {
  const portal = await Portal.findByPk(portalId);
  if (!portal || portal.publishedVersion === null) throw new NotFound('portal');
  await services.followRights();
  const definition = await services.definitions.version(portal.id, portal.publishedVersion);
  const asking = {
    ...(await services.sources.of(definition)),
    definition,
    person: servicePerson(definition, [role]),
    moment: new Date(),
    name: definition.portal.name,
    email: null,
    portalId: portal.id,
  };
  return {
    ...asking,
    seenBy: false,
    standIn: await standInKey(portal.id),
    leaver: () => leaverOf(services, asking),
    history: () => historyKeeper(services, { ...asking, changedBy: null }),
  };
}
