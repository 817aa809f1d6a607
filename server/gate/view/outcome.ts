import type { Problem } from '../../../core/refusals/problem';
import type { OpenRecord } from './open-record';

/** What became of one of several writes: done, or what it would have been refused with alone. */
export type Outcome = { done: true; id: string | null; record: OpenRecord | null } | { done: false; error: Problem };

/** An outcome as the API says it. */
export function sayOutcome(outcome: Outcome): Record<string, unknown> {
  if (outcome.done) return { ...outcome };
  const { error } = outcome;
  return {
    done: false,
    status: error.status,
    type: `urn:stone-porch:problem:${error.type}`,
    detail: error.message,
    ...error.extra,
  };
}
