import type { Logger } from 'pino';
import type { MailServers } from '../mail/mail-server';
import type { CallOutbox } from '../outside/call-outbox';
import type { Caller } from '../outside/caller';
import type { Outbox } from '../outbox/outbox';
import type { Store } from '../store/store';
import type { Sources, Definitions } from './definitions';

/** What both the server and the worker of its jobs reach portals and their records with. */
export interface CoreServices {
  store: Store;
  sources: Sources;
  definitions: Definitions;
  log: Logger;
  outbox: Outbox;
  outsideCalls: CallOutbox;
  caller: Caller;
  mailServers: MailServers;
  /**
   * Forgets what was read before the last change of what limits rights, told by its number; without one the number is
   * asked for. Called with each visit.
   */
  followRights(revision?: number): Promise<void>;
  /** Whether what is known here is what was read at this number. */
  isFollowed(revision: number): boolean;
  /** Told of each step of a change of shape; for tests that stop the server between two. */
  reached?: ReachedStep;
}

/** Tells of each step that is done; only tests wait in it. */
type ReachedStep = (step: 'noted' | 'altered' | 'followed') => Promise<void>;
