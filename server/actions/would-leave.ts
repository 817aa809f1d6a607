import { form, listOf, said } from '../http/answers';
import Joi from 'joi';
import type { Leaving } from '../gate/gate';
import { mailWriter } from '../mail/written-mail';
import type { PortalVisit } from '../visits/member-visit';

/** A mail or a call that would have left by what was only tried. */
export interface WouldLeave {
  kind: 'mail' | 'call';
  to: string;
  /** The subject of a mail, or what a call tells as JSON text; empty to those who are kept from it. */
  what: string;
}

export const wouldLeaveAnswer = listOf(form<WouldLeave>({ kind: Joi.valid('mail', 'call'), to: said, what: said }));

const mostTold = 20;

/**
 * What would have left, for a builder who tries something as somebody else. Others are told nothing: what leaves by a
 * service may be nothing that they are shown.
 */
export function wouldLeaveTold(visit: PortalVisit, { mails, calls }: Leaving): WouldLeave[] {
  if (!visit.seenBy) return [];
  const { definition, name, person } = visit;
  const isKept = person.withoutSight === true;
  const portal = definition.portal.name;
  const told = mails.map(({ step, to, values, by }): WouldLeave => {
    const { subject } = mailWriter(step).written({ ...values, presser: by === null ? name : portal, portal });
    const reader =
      to === 'presser'
        ? isKept
          ? 'whoever presses'
          : (visit.email ?? name)
        : 'role' in to
          ? `everybody who is ${definition.roles.find(({ id }) => id === to.role)?.name ?? to.role}`
          : isKept
            ? 'an address'
            : to.address;
    return { kind: 'mail', to: reader, what: isKept ? '' : subject };
  });
  const called = calls.map(({ step, values }): WouldLeave => ({
    kind: 'call',
    to: definition.addresses?.find(({ id }) => id === step.address)?.name ?? step.address,
    what: isKept ? '' : JSON.stringify(values),
  }));
  return [...told, ...called].slice(0, mostTold);
}
