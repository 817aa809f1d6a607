import type { Catalogue } from '../../../core/table/catalogue';
import { namesOf, namingOf } from '../bench/names';
import { stepsOf } from '../../../core/access/promises';
import { counted } from '../../../core/text/counted';
import { describeCondition } from '../../../core/condition/describe';
import type { PortalDefinition } from '../../../core/definition/definition';
import type { PortalPromise, PromisedOperation } from '../../../core/definition/promise';
import type { PromiseOutcome } from '../../client/access';

/** What is done, in words. */
export const operationWords: Record<PromisedOperation, string> = {
  see: 'see',
  edit: 'edit',
  create: 'create',
  delete: 'delete',
  export: 'take out',
  move: 'move',
  act: 'act on',
};

/** What became of a promise, in words. */
export function outcomeWords({ kept, by, counterExample, problem }: PromiseOutcome, promise: PortalPromise): string {
  if (problem && !counterExample) return `Can't be tested: ${problem}.`;
  if (kept)
    return by === 'analysis'
      ? 'Kept, whatever the data: it follows from the rules.'
      : 'Kept on the data as it is now, for every member concerned.';
  const who = counterExample?.person.name ?? '';
  if (counterExample?.found !== undefined) return `Broken: ${who} sees ${counterExample.found.toLocaleString()}.`;
  const what =
    promise.says === 'sees exactly'
      ? ''
      : promise.says === 'must be able to'
        ? ` can't ${operationWords[promise.operation]}`
        : ` can ${operationWords[promise.operation]}`;
  const which = counterExample?.record
    ? ` record ${decodeURIComponent(counterExample.record)} of ${promise.table}`
    : ` records of ${promise.table}`;
  return `Broken: ${who}${what}${which}${problem ? `; ${problem}` : ''}.`;
}

/** What a move or an action is called. */
function stepName({ operation, table, step }: Extract<PortalPromise, { step?: string }>, draft: PortalDefinition) {
  const steps = operation === 'move' || operation === 'act' ? stepsOf(draft, table, operation) : [];
  return steps.find(({ id }) => id === step)?.name ?? step;
}

/** A promise in words. */
export function promiseSentence(promise: PortalPromise, draft: PortalDefinition, catalogue: Catalogue): string {
  const names = namesOf(draft);
  const role = (id: string) => draft.roles.find((each) => each.id === id)?.name ?? id;
  const { who } = promise;
  const subject =
    'member' in who
      ? who.member || 'a member'
      : 'role' in who
        ? `${role(who.role)}`
        : who.exceptRoles.length === 0
          ? 'Everyone'
          : `Everyone but ${who.exceptRoles.map(role).join(', ')}`;
  if (promise.says === 'sees exactly')
    return `${subject} sees exactly ${counted(promise.records, 'record')} of ${names.table(promise.table)}`;
  return (
    `${subject} ${promise.says} ${operationWords[promise.operation]} ` +
    (promise.column
      ? `${names.column(promise.table, promise.column)} of ${names.table(promise.table)}`
      : names.table(promise.table)) +
    `${promise.step === undefined ? '' : ` by “${stepName(promise, draft)}”`}` +
    `${promise.where ? ` where ${describeCondition(promise.where, namingOf(draft, catalogue, promise.table))}` : ''}`
  );
}
