import { servicePerson, visitorPerson, type Person } from '../../core/access/person';
import { writeReadAs } from '../audit/audit';
import { NotFound } from '../gate/gate';
import { callingTo } from '../people/calling';
import { knownMember, memberPerson } from '../people/members';
import type { OpenDraft } from '../bench/bench';
import { lookingAfterOthers, type PortalVisit } from './member-visit';
import { standInKey } from '../store/stand-in';

/** Somebody as whom a builder looks. */
export interface SeenPerson {
  person: Person;
  name: string;
  /** As the log tells them apart: two members may have one name. */
  about: string;
}

/** Whom a builder looks as before a draft: a member by number, `visitor`, or `service.` and a role. */
export async function personSeen(
  { portal, definition, source, catalogue }: OpenDraft,
  who: string,
): Promise<SeenPerson> {
  if (who === 'visitor') return { person: visitorPerson(definition), name: 'a visitor', about: 'a visitor' };
  const service = who.startsWith('service.')
    ? definition.roles.find((role) => role.id === who.slice('service.'.length) && role.for === 'services')
    : undefined;
  if (service) {
    const name = `the service ${service.name}`;
    return { person: servicePerson(definition, [service.id]), name, about: name };
  }
  const id = Number(who);
  const member = Number.isSafeInteger(id) ? await knownMember(portal.id, id) : null;
  if (!member) throw new NotFound('member');
  return {
    // What held was found under what is published; the draft may count other rows.
    person: await memberPerson(source, catalogue, definition, {
      ...member,
      rows: member.rows.map((row) => ({ ...row, holds: false })),
    }),
    name: member.name,
    about: `${member.name} <${member.email}>`,
  };
}

/**
 * The visit of somebody as whom a builder looks, at the draft or at a version; that it was looked is written in the
 * log. Nothing can be changed.
 */
export async function seenBy(draft: OpenDraft, who: string, builder: string, version?: string): Promise<PortalVisit> {
  const { portal, withoutSight, ...opened } = draft;
  const { person, name, about } = await personSeen(draft, who);
  const calling = await callingTo(draft, portal.id);
  await writeReadAs(portal.id, builder, version === undefined ? about : `${about}, in version ${version}`);
  return {
    ...opened,
    person: withoutSight ? { ...person, withoutSight } : person,
    moment: new Date(),
    name: person.kind === 'member' ? calling.name(name) : name,
    email: person.email === null ? null : calling.email(person.email),
    seenBy: true,
    standIn: await standInKey(portal.id),
    portalId: portal.id,
    ...lookingAfterOthers(portal.id, opened.definition, opened),
  };
}
