import type { CoreServices } from '../definitions/portal-services';
import { at, type PlacedVisit } from '../gate/gate';
import type { Job } from '../store/models';
import { builderVisit } from './builder-visit';
import { absentMemberVisit } from './member-visit';

/** The visit of whoever began a job, as they are now, at the source of a table. */
export async function jobVisit(
  services: CoreServices,
  { portalId, ownerKind, ownerId }: Pick<Job, 'portalId' | 'ownerKind' | 'ownerId'>,
  table: string,
): Promise<PlacedVisit> {
  return ownerKind === 'member'
    ? at(await absentMemberVisit(services, portalId, ownerId!), table)
    : builderVisit(services, portalId, table);
}
