import { randomBytes } from 'node:crypto';
import { Op } from 'sequelize';
import { tokenHash } from '../sessions/sessions';
import { Ticket } from '../store/people-models';
import type { Doorway } from './doorway';

/** What a ticket is for. */
export type TicketKind = 'single sign-on' | 'passkey' | 'new passkey' | 'second factor';

/** Gives a browser something to come back with, once, within so many milliseconds. */
export async function makeTicket(
  kind: TicketKind,
  { portalId }: Pick<Doorway, 'portalId'>,
  browser: string,
  content: object,
  lasts: number,
  ticket = randomBytes(32).toString('base64url'),
): Promise<string> {
  await Ticket.create({
    ticketHash: tokenHash(ticket),
    kind,
    portalId,
    browserHash: tokenHash(browser),
    content: JSON.stringify(content),
    endsAt: new Date(Date.now() + lasts),
  });
  return ticket;
}

/** Takes a ticket back: what it holds, for the browser that got it, once; null for anything else. */
export async function takeTicket<Content>(
  kind: TicketKind,
  { portalId }: Pick<Doorway, 'portalId'>,
  browser: string | null,
  ticket: string,
): Promise<Content | null> {
  const found = await Ticket.findOne({
    where: { ticketHash: tokenHash(ticket), kind, portalId, endsAt: { [Op.gt]: new Date() } },
  });
  // One that comes from another browser is spent as well.
  if (!found || (await Ticket.destroy({ where: { ticketHash: found.ticketHash } })) !== 1) return null;
  return browser !== null && tokenHash(browser) === found.browserHash ? (JSON.parse(found.content) as Content) : null;
}

export async function forgetOldTickets(now: Date): Promise<void> {
  await Ticket.destroy({ where: { endsAt: { [Op.lt]: now } } });
}
