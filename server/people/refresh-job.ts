import Joi from 'joi';
import { writeAudit } from '../audit/audit';
import type { CoreServices } from '../definitions/portal-services';
import type { JobContext } from '../jobs/run-job';
import { CatalogueChanged } from '../sources/catalogue-changed';
import { Builder, Portal } from '../store/models';
import { recordRoles } from './record-roles';
import { refreshMembers, type RefreshOutcome } from './refresh';
import { rostersFollowed } from './rosters-at';

/** A refresh needs nothing but the rosters. */
export const refreshInput = Joi.object<Record<string, never>>({});

/** Brings the members in line with the rosters, and says so in the log. */
export async function refresh({ services, job, saving, progress }: JobContext): Promise<RefreshOutcome> {
  const portal = await Portal.findByPk(job.portalId, { rejectOnEmpty: true });
  const outcome = await refreshPortal(services, portal, progress, saving);
  const builder = job.ownerId === null ? null : await Builder.findByPk(job.ownerId);
  const { came, changed, went } = outcome;
  await writeAudit(
    job.portalId,
    builder ? `${builder.name} <${builder.email}>` : 'a builder',
    'refreshed the members',
    `${came} came, ${changed} changed, ${went} went`,
  );
  return outcome;
}

/** All of it or nothing. `saving` is told just before it is kept. */
export async function refreshPortal(
  services: CoreServices,
  portal: Portal,
  progress?: (done: number) => Promise<void>,
  saving: () => Promise<void> = () => Promise.resolve(),
): Promise<RefreshOutcome> {
  const once = async () => {
    const rosters = await rostersFollowed(services, portal);
    return services.store.sequelize.transaction(async (transaction) => {
      const outcome = await refreshMembers(portal.id, rosters, transaction, progress);
      await saving();
      return outcome;
    });
  };
  const twice = async () => {
    try {
      return await once();
    } catch (error) {
      // A table was changed since it was looked at: it has been read anew by now.
      if (error instanceof CatalogueChanged) return once();
      throw error;
    }
  };
  const outcome = await twice();
  // It is refreshed by now: what could not be recorded is at the next look.
  await recordRoles(services, portal.id, new Date()).catch((error: unknown) =>
    services.log.warn({ portal: portal.slug, reason: (error as Error).name }, 'roles not recorded'),
  );
  return outcome;
}
