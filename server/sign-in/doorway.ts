import type { Look } from '../../core/face/look';
import type { Transaction } from 'sequelize';
import type { KnownSignInRules } from '../../core/sign-in/sign-in-rules';
import type { Subject } from '../sessions/sessions';

/** Somebody whom a door may let in. */
export interface Person {
  subject: Subject;
  name: string;
  email: string;
  passwordHash: string | null;
  hasSecondFactor: boolean;
}

/** What a portal's door looks like. */
export interface DoorFace {
  look: Look;
  logo: string | null;
  welcome: string | null;
}

/** A door that people sign in at: of a portal, for its members, or of the bench, for those who build. */
export interface Doorway {
  /** By which tries at it are counted. */
  key: string;
  /** Null at the bench. */
  portalId: number | null;
  title: string;
  /** A portal's own face; the bench has none. */
  face: DoorFace | null;
  /** Whoever has an address of these domains can come in. */
  openTo: string[] | null;
  /** Some pages are open without signing in. */
  isPublic: boolean;
  rules: KnownSignInRules;
  /** Where its pages stand, and the API's addresses of it. */
  page: string;
  api: string;
  /** The cookies of its sessions, and of what went wrong on the way back from elsewhere. */
  cookie: string;
  saidCookie: string;
  /** Whom an address lets in, whoever has proven it; null for everybody else. Does the same work for any address. */
  personOf(email: string): Promise<Person | null>;
  /** As `personOf`, and makes one of whoever is new where it is open to their address. */
  comeOf(email: string): Promise<Person | null>;
  /** Whom a session or a passkey of this door belongs to, as long as they may come in. */
  known(subject: Subject): Promise<Person | null>;
  /** Whether a second factor is asked of somebody. */
  asksSecond(person: Person): Promise<boolean>;
  cameIn(person: Person): Promise<void>;
  savePassword(person: Person, passwordHash: string): Promise<void>;
  queueCode(person: Person, code: string, until: Date, transaction: Transaction): Promise<void>;
  queuePasswordLink(person: Person, transaction: Transaction): Promise<void>;
}

/** The number of whoever it is, and of which kind: one name for each. */
export const subjectName = (subject: Subject): string =>
  'memberId' in subject ? String(subject.memberId) : `builder/${subject.builderId}`;
