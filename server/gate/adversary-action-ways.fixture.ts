import { actions, type Attempt } from './adversary.fixture';
import type { TimedAction } from '../../core/definition/action';
import { Refused } from './view/errors';
import { act } from './write/act';
import { actOnDue } from './write/act-on-due';
import { actWithEach } from './write/act-each';
import { putAnswer } from './write/answered';
import { takeBackActs } from './write/take-back';

/** What the adversary tries with actions. */
export const actionWays: Record<string, () => Attempt[]> = {
  act: () => [
    ...actions.flatMap(({ id: action, asks }) =>
      (['clients', 'notes', 'none'] as const).flatMap((table) =>
        ['1', '2', '3', '50', '60', '100', '104', '999'].flatMap((id) =>
          ['Ada', 1, 100, 101, null].map((given): Attempt => [
            `${action} with ${table} ${id} by ${given}`,
            ({ source }, visit) => {
              const asked = Object.fromEntries(asks.map((ask) => [ask.id, given]));
              return act(source, visit, table, id, action, { asked, seen: { name: 'Ada' } }, { trial: true });
            },
          ]),
        ),
      ),
    ),
    // What would leave, taken back once it is known.
    ...actions.flatMap(({ id: action, table, asks }) =>
      ['1', '50', '100'].map((id): Attempt => [
        `what leaves of ${action} with ${id}`,
        async ({ source }, visit) => {
          const asked = Object.fromEntries(asks.map((ask) => [ask.id, 1]));
          const left: unknown[] = [];
          const hold = (leaving: unknown) => {
            left.push(structuredClone(leaving));
            return Promise.reject(new Refused('taken back'));
          };
          const done = () => Promise.resolve();
          const leaver = { hold, keep: done, drop: done };
          await act(source, visit, table, id, action, { asked }, { leaver }).catch((error: unknown) => {
            if (left.length === 0) throw error;
          });
          return left;
        },
      ]),
    ),
  ],
  putAnswer: () =>
    actions
      .filter(({ steps }) => steps[0]!.kind === 'call')
      .flatMap(({ id: action }) =>
        ['1', '2', '50', '100', '104', '999'].flatMap((id) =>
          ['Ada', 'P-1', 1, null, {}].map((value): Attempt => [
            `answer ${action} with ${id} by ${String(value)}`,
            ({ source }, visit) => {
              const call = { action, address: 'outside', step: 0 };
              return putAnswer(source, visit, 'clients', id, call, { back: { value } }, { trial: true });
            },
          ]),
        ),
      ),
  actOnDue: () =>
    actions.map((action): Attempt => [
      `${action.id} each day`,
      ({ source }, visit) =>
        actOnDue(source, visit, action as TimedAction, {
          from: null,
          atMost: 50,
          beside: null,
          // Taken back once it is known what would come of it.
          beforeKeeping: (batch) => Promise.reject(new Refused(JSON.stringify(batch))),
        }),
    ]),
  // What takes a press back is kept by the server: it is as it was noted, and nobody changed anything since.
  takeBackActs: () =>
    actions.flatMap(({ id: action, table, asks }) =>
      ['1', '50', '100'].map((id): Attempt => [
        `${action} with ${id} taken back`,
        async ({ source }, visit) => {
          const asked = Object.fromEntries(asks.map((ask) => [ask.id, 1]));
          const done = await act(source, visit, table, id, action, { asked }, { trial: true, notes: true });
          const noted = done.takesBack ? [{ ...done.takesBack, put: done.takesBack.was }] : [];
          return takeBackActs(source, visit, table, action, noted, { trial: true });
        },
      ]),
    ),
  actWithEach: () =>
    actions.map(({ id: action, table, asks }): Attempt => [
      `${action} with several`,
      ({ source }, visit) => {
        const asked = Object.fromEntries(asks.map((ask) => [ask.id, 1]));
        return actWithEach(source, visit, table, ['1', '50', '100', '999'], action, { asked }, { trial: true });
      },
    ]),
};
