import { isPublic } from '../../core/access/public-pages';
import { lookOf } from '../../core/face/look';
import type { PortalDefinition } from '../../core/definition/definition';
import { Problem } from '../../core/refusals/problem';
import { signInRules } from '../../core/sign-in/sign-in-rules';
import type { CoreServices } from '../definitions/portal-services';
import type { Entry } from '../http/endpoint';
import type { MailSource } from '../people/mail-values';
import { knownMember, memberPerson } from '../people/members';
import { mailOf, queuePasswordLink } from '../people/secret-mail';
import { Member } from '../store/people-models';
import { noteCameIn, portalAtDoor, type KnownAtDoor, type PortalAtDoor } from '../store/door-sql';
import { memberCookie, memberCookiePath } from '../visits/member-visit';
import { memberAtDoor } from './door';
import type { Doorway, Person } from './doorway';
import { comeByDomain } from './open-door';

/** A published portal, and its definition. */
export interface PublishedPortal {
  portal: PortalAtDoor;
  definition: PortalDefinition;
}

/** A published portal's door. */
export type PortalDoorway = Doorway & PublishedPortal;

/** The portal if it is published; one that isn't and one that never was are the same to the outside. */
export async function publishedPortal(services: CoreServices, slug: string): Promise<PublishedPortal> {
  const portal = await portalAtDoor(slug);
  if (!portal || portal.publishedVersion === null)
    throw new Problem(404, 'not-found', 'There is no portal at this address.');
  return { portal, definition: await services.definitions.version(portal.id, portal.publishedVersion) };
}

/** The door of the published portal of the request's address. */
export const atPortalDoor = (services: CoreServices): Entry<{ at: PortalDoorway }> => ({
  needs: null,
  open: async (req) => ({ at: portalDoorway(services, await publishedPortal(services, String(req.params.slug))) }),
});

export const memberPersonAtDoor = ({ id, name, email, passwordHash, hasSecondFactor }: KnownAtDoor): Person => ({
  subject: { memberId: id },
  name,
  email,
  passwordHash,
  hasSecondFactor,
});

/** How a portal's members come in, by what is published of it. */
export function portalDoorway(services: CoreServices, { portal, definition }: PublishedPortal): PortalDoorway {
  const rules = signInRules(definition);
  const atDoor = (member: KnownAtDoor | null) => member && memberPersonAtDoor(member);
  const read = async (person: Person): Promise<Member> => Member.findByPk(idOf(person), { rejectOnEmpty: true });
  const mails = async (): Promise<MailSource> => {
    const { source: runner, catalogue } = await services.sources.of(definition);
    return { runner, catalogue, definition };
  };
  return {
    portal,
    definition,
    key: portal.slug,
    portalId: portal.id,
    title: definition.portal.name,
    face: doorFace(definition.portal),
    openTo: definition.openTo?.domains ?? null,
    isPublic: definition.pages.some((page) => isPublic(page, definition)),
    rules,
    page: `/p/${portal.slug}`,
    api: memberCookiePath(portal.slug),
    cookie: memberCookie,
    saidCookie: 'stone_porch_said',
    personOf: async (email) => atDoor(await memberAtDoor(services, portal, email)),
    comeOf: async (email) =>
      atDoor((await memberAtDoor(services, portal, email)) ?? (await comeByDomain(services, portal, email))),
    known: async (subject) => {
      if (!('memberId' in subject)) return null;
      const known = await Member.findOne({ where: { id: subject.memberId, portalId: portal.id } });
      // As at the door: whose row is gone by now is nobody.
      const member = known && (await memberAtDoor(services, portal, known.email));
      return member?.id === known?.id ? atDoor(member) : null;
    },
    asksSecond: async (person) => {
      const { secondFactor } = rules;
      if (!secondFactor || secondFactor.length === 0) return false;
      const { source, catalogue } = await services.sources.of(definition);
      const known = (await knownMember(portal.id, idOf(person)))!;
      const { roles } = await memberPerson(source, catalogue, definition, known);
      return roles.some((role) => secondFactor.includes(role));
    },
    cameIn: (person) => noteCameIn(idOf(person)),
    savePassword: async (person, passwordHash) =>
      void (await Member.update({ passwordHash }, { where: { id: idOf(person) } })),
    queueCode: async (person, code, until, transaction) => {
      const order = { kind: 'code' as const, recipient: person.email, secret: code, until, member: await read(person) };
      await services.outbox.queue([await mailOf(await mails(), portal, order)], transaction);
    },
    queuePasswordLink: async (person, transaction) =>
      queuePasswordLink(services.outbox, await mails(), portal, await read(person), transaction),
  };
}

const doorFace = (portal: PortalDefinition['portal']) => ({
  look: lookOf(portal),
  logo: portal.face?.logo ?? null,
  welcome: portal.face?.welcome ?? null,
});

const idOf = ({ subject }: Person): number => ('memberId' in subject ? subject.memberId : 0);
