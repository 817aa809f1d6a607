import type { Condition } from '../condition/tree';

export const promisedOperations = ['see', 'edit', 'create', 'delete', 'export', 'move', 'act'] as const;

export type PromisedOperation = (typeof promisedOperations)[number];

/** Whom a promise is about. */
type PromisedWho = { everyone: true; exceptRoles: string[] } | { role: string } | { member: string };

/** A promise: a sentence about who sees or may do what, tested before each publish. */
export type PortalPromise =
  | {
      id: string;
      who: PromisedWho;
      says: 'may never' | 'may only' | 'must be able to';
      operation: PromisedOperation;
      table: string;
      column?: string;
      /** The move or action that is meant, by its id; any of the table when absent. */
      step?: string;
      where?: Condition;
    }
  | { id: string; who: { member: string }; says: 'sees exactly'; records: number; table: string };
