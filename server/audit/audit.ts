import { Op } from 'sequelize';
import { keptWithStore } from '../store/kept-with-store';
import { AuditEntry } from '../store/models';

/** What is written down of a portal's administration. */
export type AuditWhat =
  | 'read as'
  | 'published'
  | 'published despite a broken promise'
  | 'set a password'
  | 'suspended'
  | 'let in again'
  | 'ended sessions'
  | 'gave a role'
  | 'took a role back'
  | 'invited'
  | 'invited to sign up'
  | 'reminded'
  | 'took links out as a file'
  | 'set the mail server'
  | 'sent a mail again'
  | 'made a call again'
  | 'sent a password link'
  | 'handed over'
  | 'took a hand-over back'
  | 'came by a sign-up'
  | 'agreed to a sign-up'
  | 'refused a sign-up'
  | 'set a secret'
  | 'forgot a second factor'
  | 'refreshed the members'
  | 'asked somebody to build'
  | 'changed somebody who builds'
  | 'removed somebody who builds'
  | 'sent a link to somebody who builds'
  | 'set how builders sign in'
  | 'gave the portal its own address'
  | "took the portal's own address away"
  | 'set a ceiling'
  | 'kept a query'
  | 'deleted a query'
  | 'changed where records are'
  | 'applied a definition'
  | 'made a portal of a definition'
  | 'changed the shape'
  | 'made a key'
  | 'replaced a key'
  | 'ended a key'
  | 'refused a key'
  | 'made a link'
  | 'signed in'
  | 'tried addresses out'
  | 'exported'
  | 'erased a history'
  | 'asked for an access review'
  | 'signed an access review'
  | 'imported';

/**
 * Writes one line of a portal's log, or of the installation's own where it is null. `about` is what a person reading it
 * needs to know, in words.
 */
export async function writeAudit(portalId: number | null, who: string, what: AuditWhat, about: string): Promise<void> {
  await AuditEntry.create({ portalId, at: new Date(), who: who.slice(0, 200), what, about: about.slice(0, 2000) });
}

const readAgainAfter = 10 * 60_000;
/**
 * What this server has noted lately, so that the many questions of one screen don't each look: another server looks
 * once for itself.
 */
const notes = keptWithStore(() => new Map<string, number>());

/** Notes that a builder reads as somebody; once in ten minutes, however many questions that takes. */
export async function writeReadAs(portalId: number, builder: string, person: string): Promise<void> {
  const about = person.slice(0, 2000);
  const noted = notes();
  const [key, now] = [`${portalId}\n${builder}\n${about}`, Date.now()];
  if ((noted.get(key) ?? 0) > now - readAgainAfter) return;
  if (noted.size > 10_000) noted.clear();
  noted.set(key, now);
  try {
    await writeUnlessRecent(portalId, builder, about, now);
  } catch (error) {
    // What could not be written is not noted: the next question tries again.
    noted.delete(key);
    throw error;
  }
}

async function writeUnlessRecent(portalId: number, builder: string, about: string, now: number): Promise<void> {
  const recent = await AuditEntry.findOne({
    where: { portalId, who: builder, what: 'read as', about, at: { [Op.gt]: new Date(now - readAgainAfter) } },
  });
  if (!recent) await writeAudit(portalId, builder, 'read as', about);
}

/** The newest lines of a portal's log, or of the installation's own where it is null. */
export async function readAudit(
  portalId: number | null,
  size: number,
): Promise<{ at: Date; who: string; what: string; about: string }[]> {
  const entries = await AuditEntry.findAll({ where: { portalId }, order: [['id', 'DESC']], limit: size });
  return entries.map(({ at, who, what, about }) => ({ at, who, what, about }));
}
