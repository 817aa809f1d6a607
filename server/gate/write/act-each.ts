import { actionsOf } from '../../../core/definition/action';
import type { Source } from '../../sources/source';
import { NotFound, SomeRefused } from '../view/errors';
import type { Outcome } from '../view/outcome';
import type { Visit } from '../view/visit';
import { actIn, type ActOptions, type Press } from './act';
import type { LeavingMail } from './step-values';
import { outcomeOf } from './several';
import { writing } from './write';

/**
 * Does an action with several records in one transaction, as the action has it: all or nothing, and then SomeRefused
 * carries the outcome of each; or each by itself. NotFound where it is done with one at a time alone.
 */
export async function actWithEach(
  source: Source,
  visit: Visit,
  table: string,
  ids: readonly string[],
  actionId: string,
  press: Pick<Press, 'asked'>,
  options: ActOptions = {},
): Promise<Outcome[]> {
  const action = actionsOf(visit.definition.actions, table).find((each) => each.id === actionId);
  if (action?.several === undefined) throw new NotFound('action');
  return writing(source, visit, options, async (runner) => {
    const outcomes: Outcome[] = [];
    const leaving: (LeavingMail & { id: string })[] = [];
    for (const id of ids)
      outcomes.push(
        await outcomeOf(runner, visit, async () => {
          const { mails } = await actIn(runner, visit, table, id, actionId, press);
          leaving.push(...mails.map((mail) => ({ ...mail, id })));
          return { id, record: null };
        }),
      );
    if (action.several === 'all or nothing' && outcomes.some(({ done }) => !done)) throw new SomeRefused(outcomes);
    if (leaving.length > 0 && !options.trial) await options.leave?.(leaving);
    return outcomes;
  });
}
