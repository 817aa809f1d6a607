import { randomBytes } from 'node:crypto';
import type { Request, Response } from 'express';
import type { PortalDefinition } from '../../core/definition/definition';
import { Problem } from '../../core/refusals/problem';
import { signInRules, type KnownSignInRules, type SignInMethod } from '../../core/sign-in/sign-in-rules';
import type { CoreServices } from '../definitions/portal-services';
import { readCookie, setCookie } from '../http/security';
import { knownMember, memberPerson } from '../people/members';
import type { SignInFailures } from '../sessions/failures';
import { sessionHolds, tokenHash } from '../sessions/sessions';
import { mustWait } from '../sessions/sign-in';
import { Portal } from '../store/models';
import { Member, SecondFactor, Session } from '../store/people-models';
import { memberCookie, memberCookiePath } from '../visits/member-visit';
import { letIn, memberAtDoor } from './door';
import type { DoorCalls } from './door-calls';
import type { IdentityProviders } from './identity-provider';
import type { SecondFactors } from './second-factor';

/** What the door works with. */
export type SignInServices = CoreServices & {
  failures: SignInFailures;
  calls: DoorCalls;
  providers: IdentityProviders;
  secondFactors: SecondFactors;
};

/** A published portal, as its door needs it. */
export interface PublishedPortal {
  portal: Portal;
  definition: PortalDefinition;
  rules: KnownSignInRules;
}

/** Somebody who has proven who they are: in, or one step before it. */
export interface CameIn {
  name: string;
  /** What they must still do: give the code of their second factor, or set one up. */
  lacks: 'second factor' | 'new second factor' | null;
}

/** A session, whole or not, and whose it is. */
export interface AtSession {
  session: Session;
  member: Member;
}

/** So long somebody has for the second step. */
const halfSession = { lastsHours: 0.5, idleMinutes: 30 };

const doorCookie = 'stone_porch_door';

/** The ways in that all methods have in common. */
export class AtDoor {
  constructor(private readonly services: SignInServices) {}

  /** The portal if it is published; one that isn't and one that never was are the same to the outside. */
  async published(slug: string): Promise<PublishedPortal> {
    const portal = await Portal.findOne({ where: { slug } });
    if (!portal || portal.publishedVersion === null)
      throw new Problem(404, 'not-found', 'There is no portal at this address.');
    const definition = await this.services.definitions.version(portal.id, portal.publishedVersion);
    return { portal, definition, rules: signInRules(definition) };
  }

  /** The portal whose door has a method. */
  async with(slug: string, method: SignInMethod): Promise<PublishedPortal> {
    const at = await this.published(slug);
    if (!at.rules.methods.includes(method))
      throw new Problem(404, 'not-found', 'This way of signing in is not on here.');
    return at;
  }

  /**
   * Counts a try of somebody at a door, and waits or refuses where there were too many. What it gives says that the try
   * was right.
   */
  async counted(who: string, req: Request): Promise<() => Promise<void>> {
    const address = req.ip ?? '';
    const wait = await this.services.failures.begin(who, address);
    if (wait > 0) throw mustWait(wait);
    return () => this.services.failures.succeeded(who, address);
  }

  /**
   * As `counted`, where nobody has said who they are: an address of the network is slowed down for its own tries, and
   * keeps nobody else out.
   */
  countedFrom(what: string, req: Request): Promise<() => Promise<void>> {
    return this.counted(`${what} from ${req.ip ?? ''}`, req);
  }

  /** Begins the session of somebody who has proven who they are; `isWhole` where the proof is as good as two. */
  async comeIn(at: PublishedPortal, member: Member, req: Request, res: Response, isWhole = false): Promise<CameIn> {
    const lacks = isWhole ? null : await this.lacking(at, member);
    await this.letIn(at, member, req, res, lacks === null ? null : 'second factor');
    return { name: member.name, lacks };
  }

  /** Ends a session that lacked something, and begins a whole one in its place. */
  async complete(at: PublishedPortal, { session, member }: AtSession, req: Request, res: Response): Promise<void> {
    await Session.destroy({ where: { tokenHash: session.tokenHash } });
    await this.letIn(at, member, req, res, null);
  }

  private async letIn(
    { portal, rules }: PublishedPortal,
    member: Member,
    req: Request,
    res: Response,
    lacks: Session['lacks'],
  ): Promise<void> {
    const session = await letIn(member, req.get('user-agent'), lacks === null ? rules : halfSession, lacks);
    setCookie(req, res, memberCookie, session, memberCookiePath(portal.slug));
  }

  /** Whether somebody must prove more: one of their roles asks for it, or they have set it up themselves. */
  private async lacking({ definition, rules }: PublishedPortal, member: Member): Promise<CameIn['lacks']> {
    if ((await SecondFactor.count({ where: { memberId: member.id } })) > 0) return 'second factor';
    return (await this.asksSecond(definition, rules, member)) ? 'new second factor' : null;
  }

  async asksSecond(definition: PortalDefinition, { secondFactor }: KnownSignInRules, member: Member): Promise<boolean> {
    if (!secondFactor || secondFactor.length === 0) return false;
    const { source, catalogue } = await this.services.sources.of(definition);
    const known = (await knownMember(member.portalId, member.id))!;
    const { roles } = await memberPerson(source, catalogue, definition, known);
    return roles.some((role) => secondFactor.includes(role));
  }

  /** The session of a request, whether or not it lacks something; a Problem 401 where there is none. */
  async session(req: Request, { portal, rules }: PublishedPortal): Promise<AtSession> {
    const token = readCookie(req, memberCookie);
    const session = token ? await Session.findByPk(tokenHash(token)) : null;
    const holds = session !== null && session.memberId !== null && sessionHolds(session, new Date(), rules);
    const known = holds ? await Member.findOne({ where: { id: session.memberId!, portalId: portal.id } }) : null;
    // As at the door: whose row is gone by now is nobody.
    const member = known && (await memberAtDoor(this.services, portal, known.email));
    if (!session || !member || member.id !== known?.id)
      throw new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');
    return { session, member };
  }

  /** By what a browser is known between two steps of signing in. */
  browser(req: Request, res: Response, slug: string): string {
    const known = readCookie(req, doorCookie);
    if (known) return known;
    const made = randomBytes(24).toString('base64url');
    setCookie(req, res, doorCookie, made, memberCookiePath(slug));
    return made;
  }

  knownBrowser(req: Request): string | null {
    return readCookie(req, doorCookie);
  }
}
