import { at, type PlacedVisit } from '../gate/gate';
import { builderPerson } from '../../core/access/person';
import type { CoreServices } from '../definitions/portal-services';
import { Portal } from '../store/models';

/** The builder before the draft of a portal, at the source of a table; `freshly` reads its catalogue anew. */
export async function builderVisit(
  services: CoreServices,
  portalId: number,
  table: string,
  freshly = false,
): Promise<PlacedVisit> {
  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  const definition = await services.definitions.draft(portal);
  const visit = async () =>
    at({ ...(await services.sources.of(definition)), definition, person: builderPerson, moment: new Date() }, table);
  if (freshly) await (await visit()).source.catalogue(true);
  return visit();
}
