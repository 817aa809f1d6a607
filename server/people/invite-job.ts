import { writeAudit } from '../audit/audit';
import { readAddress } from '../mail/own-address';
import type { JobContext } from '../jobs/run-job';
import { Builder, Portal } from '../store/models';
import { invite, type InvitationOrder, type InvitationOutcome } from './invitations';

/** Queues invitations or reminders, all of them or none, and says so in the log. */
export async function sendInvitations(
  { services, job, saving, progress }: JobContext,
  order: InvitationOrder,
): Promise<InvitationOutcome> {
  const portal = await Portal.findByPk(job.portalId, { rejectOnEmpty: true });
  const definition = await services.definitions.draft(portal);
  const { source: runner, catalogue } = await services.sources.of(definition);
  const base = await readAddress(job.portalId);
  const inviting = { portal, source: { runner, catalogue, definition }, outbox: services.outbox, base };
  const outcome = await services.store.sequelize.transaction(async (transaction) => {
    const queued = await invite(inviting, order, job.id, transaction, (done) => progress(done));
    await saving();
    return queued;
  });
  const builder = job.ownerId === null ? null : await Builder.findByPk(job.ownerId);
  const what = order.kind === 'invitation' ? 'invited' : 'reminded';
  await writeAudit(
    job.portalId,
    builder ? `${builder.name} <${builder.email}>` : 'a builder',
    what,
    `${outcome.queued} ${outcome.queued === 1 ? 'member' : 'members'}`,
  );
  return outcome;
}
