import type { Condition } from './tree';

/** One condition that holds where all of them do; at least one is given. */
export const allOf = (parts: Condition[]): Condition => (parts.length === 1 ? parts[0]! : { kind: 'all', parts });
