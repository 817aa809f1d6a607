import type { Condition } from '../condition/tree';
import type { Grant } from '../definition/definition';

/** The conditions that stand in a grant itself. */
export function conditionsOf(grant: Grant): Condition[] {
  return [
    grant.see?.where,
    grant.create?.keepIn,
    grant.edit?.where,
    grant.edit?.keepIn,
    grant.delete?.where,
    grant.export?.where,
  ].filter((where) => typeof where === 'object');
}
