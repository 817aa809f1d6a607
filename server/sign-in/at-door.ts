import { randomBytes } from 'node:crypto';
import type { Request, Response } from 'express';
import { Problem } from '../../core/refusals/problem';
import type { SignInMethod } from '../../core/sign-in/sign-in-rules';
import { writeAudit } from '../audit/audit';
import type { CoreServices } from '../definitions/portal-services';
import { readCookie, setCookie } from '../http/security';
import type { SignInFailures } from '../sessions/failures';
import { beginSession, sessionHolds, subjectOf, tokenHash } from '../sessions/sessions';
import { mustWait } from '../sessions/sign-in';
import { Session } from '../store/people-models';
import type { DoorCalls } from './door-calls';
import type { Doorway, Person } from './doorway';
import type { IdentityProviders } from './identity-provider';
import type { SecondFactors } from './second-factor';

/** What the door works with. */
export type SignInServices = CoreServices & {
  failures: SignInFailures;
  calls: DoorCalls;
  providers: IdentityProviders;
  secondFactors: SecondFactors;
};

/** Somebody who has proven who they are: in, or one step before it. */
export interface CameIn {
  name: string;
  /** What they must still do: give the code of their second factor, or set one up. */
  lacks: 'second factor' | 'new second factor' | null;
}

/** A session, whole or not, and whose it is. */
export interface AtSession {
  session: Session;
  person: Person;
}

/** So long somebody has for the second step. */
const halfSession = { lastsHours: 0.5, idleMinutes: 30 };

export const notSignedIn = (): Problem =>
  new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');

const doorCookie = 'stone_porch_door';

/** Throws where a door doesn't have a method. */
export function refuseShut({ rules }: Doorway, method: SignInMethod): void {
  if (!rules.methods.includes(method)) throw new Problem(404, 'not-found', 'This way of signing in is not on here.');
}

/** What all methods have in common, at every door. */
export class AtDoor {
  constructor(private readonly services: Pick<SignInServices, 'failures'>) {}

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
  async comeIn(at: Doorway, person: Person, req: Request, res: Response, isWhole = false): Promise<CameIn> {
    const lacks = isWhole ? null : await lacking(at, person);
    await letIn(at, person, req, res, lacks === null ? null : 'second factor');
    return { name: person.name, lacks };
  }

  /** Ends a session that lacked something, and begins a whole one in its place. */
  async complete(at: Doorway, { session, person }: AtSession, req: Request, res: Response): Promise<void> {
    await Session.destroy({ where: { tokenHash: session.tokenHash } });
    await letIn(at, person, req, res, null);
  }

  /** The session of a request, whether or not it lacks something; a Problem 401 where there is none. */
  async session(req: Request, at: Doorway): Promise<AtSession> {
    const token = readCookie(req, at.cookie);
    const session = token ? await Session.findByPk(tokenHash(token)) : null;
    const subject = session && sessionHolds(session, new Date(), at.rules) ? subjectOf(session) : null;
    const person = subject && (await at.known(subject));
    if (!session || !person) throw notSignedIn();
    return { session, person };
  }

  /** By what a browser is known between two steps of signing in. */
  browser(req: Request, res: Response, at: Doorway): string {
    const known = readCookie(req, doorCookie);
    if (known) return known;
    const made = randomBytes(24).toString('base64url');
    setCookie(req, res, doorCookie, made, at.api);
    return made;
  }

  knownBrowser(req: Request): string | null {
    return readCookie(req, doorCookie);
  }
}

/** Begins a session of somebody who has proven who they are, and gives the browser its cookie. */
async function letIn(at: Doorway, person: Person, req: Request, res: Response, lacks: Session['lacks']): Promise<void> {
  const limits = lacks === null ? at.rules : halfSession;
  const token = await beginSession(person.subject, req.get('user-agent'), limits, lacks);
  if (lacks === null) {
    await at.cameIn(person);
    await writeAudit(at.portalId, `${person.name} <${person.email}>`, 'signed in', `from ${req.ip ?? ''}`);
  }
  setCookie(req, res, at.cookie, token, at.api);
}

/** Whether somebody must prove more: it is asked of them, or they have set it up themselves. */
async function lacking(at: Doorway, person: Person): Promise<CameIn['lacks']> {
  if (person.hasSecondFactor) return 'second factor';
  return (await at.asksSecond(person)) ? 'new second factor' : null;
}
