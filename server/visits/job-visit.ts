import type { CoreServices } from '../definitions/portal-services';
import { at, type PlacedVisit } from '../gate/gate';
import type { Job } from '../store/models';
import { builderVisit } from './builder-visit';
import { absentMemberVisit } from './member-visit';

/**
 * The visit of whoever began a job, as they are now, at the source of a table; `freshly` reads its catalogue anew.
 */
export async function jobVisit(
  services: CoreServices,
  { portalId, ownerKind, ownerId }: Pick<Job, 'portalId' | 'ownerKind' | 'ownerId'>,
  table: string,
  freshly = false,
): Promise<PlacedVisit> {
  if (ownerKind !== 'member') return builderVisit(services, portalId, ownerId, table, freshly);
  const visit = async () => at(await absentMemberVisit(services, portalId, ownerId!), table);
  if (freshly) await (await visit()).source.catalogue(true);
  return visit();
}
