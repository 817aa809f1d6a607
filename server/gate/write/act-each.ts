import { actionsOf, type Action } from '../../../core/definition/action';
import { findColumn, findTable } from '../../../core/table/catalogue';
import type { Source, Transaction } from '../../sources/source';
import { InvalidValues, NotFound, SomeRefused } from '../view/errors';
import type { Outcome } from '../view/outcome';
import type { Visit } from '../view/visit';
import { atTable } from '../view/table-visit';
import { actIn, type Press } from './act';
import { outcomeOf } from './several';
import type { PressDone } from './press-done';
import type { WriteOptions } from './write';
import { writing } from './writing';

/** It is noted of so many at once what it takes to take it back. */
const mostTakenBack = 200;

/**
 * Does an action with several records in one transaction, as the action has it: all or nothing, and then SomeRefused
 * carries the outcome of each; or each by itself. What takes back those that were done comes along where it is noted,
 * of all of them or of none. NotFound where it is done with one at a time alone.
 */
export async function actWithEach(
  source: Source,
  visit: Visit,
  table: string,
  ids: readonly string[],
  actionId: string,
  press: Pick<Press, 'asked'>,
  options: WriteOptions = {},
): Promise<{ outcomes: Outcome[]; takesBack: PressDone[] }> {
  const action = actionsOf(visit.definition.actions, table).find((each) => each.id === actionId);
  if (action?.several === undefined) throw new NotFound('action');
  const notes = options.notes === true && ids.length <= mostTakenBack;
  if (ids.length > 1) refuseFiles(visit, action, press.asked);
  return writing(source, visit, options, async (runner) => {
    const at = atTable(runner, visit, table);
    const back = new Map<string, PressDone>();
    const one = async (id: string): Promise<{ id: string; record: null }> => {
      const { takesBack } = await actIn(at, id, actionId, press, { tells: false, notes });
      if (takesBack) back.set(id, takesBack);
      return { id, record: null };
    };
    const outcomes = (await allAtOnce(runner, visit, ids, one, options)) ?? [];
    if (outcomes.length === 0) {
      back.clear();
      for (const [i, id] of ids.entries()) {
        outcomes.push(await outcomeOf(runner, visit, () => one(id)));
        await options.progress?.(i + 1);
      }
    }
    if (action.several === 'all or nothing' && outcomes.some(({ done }) => !done)) throw new SomeRefused(outcomes);
    const done = ids.filter((_, i) => outcomes[i]!.done).map((id) => back.get(id));
    return { outcomes, takesBack: done.every((each) => each !== undefined) ? done : [] };
  });
}

/** A file is held by one record, so that none goes to several. */
function refuseFiles(visit: Visit, { asks }: Action, asked: Press['asked']): void {
  const given = asks.filter((ask) => {
    const table = findTable(visit.catalogue, ask.table);
    return (asked[ask.id] ?? '') !== '' && table && findColumn(table, ask.column)?.kind === 'file';
  });
  if (given.length > 0)
    throw new InvalidValues(
      Object.fromEntries(given.map(({ id }) => [id, 'A file is for one record: send it with one at a time.'])),
    );
}

/**
 * Does all without looking back between two, as it mostly can be; null, and nothing done, as soon as one is refused:
 * then each is tried by itself, so that every reason is told.
 */
async function allAtOnce(
  runner: Transaction,
  visit: Visit,
  ids: readonly string[],
  one: (id: string) => Promise<{ id: string; record: null }>,
  { progress }: Pick<WriteOptions, 'progress'>,
): Promise<Outcome[] | null> {
  const whole = await outcomeOf(runner, visit, async () => {
    for (const [i, id] of ids.entries()) {
      await one(id);
      await progress?.(i + 1);
    }
    return { id: null, record: null };
  });
  return whole.done ? ids.map((id) => ({ done: true, id, record: null })) : null;
}
