import Joi from 'joi';
import { writeAudit } from '../audit/audit';
import type { JobContext } from '../jobs/run-job';
import { Builder, Portal } from '../store/models';
import { refreshMembers, type RefreshOutcome } from './members';

/** A refresh needs nothing but the draft's rosters. */
export const refreshInput = Joi.object<Record<string, never>>({});

/** Brings the members in line with the draft's rosters, and says so in the log. */
export async function refresh({ services, job, saving }: JobContext): Promise<RefreshOutcome> {
  const portal = await Portal.findByPk(job.portalId, { rejectOnEmpty: true });
  const definition = await services.definitions.draft(portal);
  const { source, catalogue } = await services.sources.of(definition);
  const { sequelize } = services.store;
  const outcome = await refreshMembers(sequelize, source, catalogue, definition, job.portalId, saving);
  const builder = job.ownerId === null ? null : await Builder.findByPk(job.ownerId);
  const { added, updated, suspended } = outcome;
  await writeAudit(
    job.portalId,
    builder ? `${builder.name} <${builder.email}>` : 'a builder',
    'refreshed the members',
    `${added} came, ${updated} changed, ${suspended} went`,
  );
  return outcome;
}
