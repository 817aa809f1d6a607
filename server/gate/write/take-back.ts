import { takesBack } from '../../../core/access/rights';
import { bothRows } from '../../../core/access/rows';
import { isTakenBack } from '../../../core/definition/action';
import { sql } from '../../../core/sql/sql';
import { sameValue } from '../../../core/table/value';
import type { Source } from '../../sources/source';
import { NotFound, Refused, SomeRefused } from '../view/errors';
import type { Outcome } from '../view/outcome';
import { readRecordId } from '../view/record-id';
import { atTable, type TableWrite } from '../view/table-visit';
import { storedTable } from '../view/tables';
import type { Visit } from '../view/visit';
import { refuseForeignCombinations } from './references';
import { refuseBroken } from './field-rules';
import { stored, type PressDone } from './press-done';
import { outcomeOf } from './several';
import { assignments, keeps, readableError, stamped, underPolicy, type WriteOptions } from './write';
import { inAction } from './transaction-log';
import { writing } from './writing';

/**
 * Takes back what somebody did with an action: what it wrote is as it was before, as long as nobody changed any of that
 * since and it is their right still. It sets nothing off. With several records as the action has it: each by itself, or
 * all or nothing, and then SomeRefused carries the outcome of each.
 */
export async function takeBackActs(
  source: Source,
  visit: Visit,
  table: string,
  action: string,
  done: readonly PressDone[],
  options: WriteOptions = {},
): Promise<Outcome[]> {
  return writing(source, visit, options, async (runner) => {
    const at = atTable(runner, visit, table);
    const outcomes: Outcome[] = [];
    for (const one of done)
      outcomes.push(
        await outcomeOf(runner, visit, async () => {
          await inAction(runner, action, () => takeBackOne(at, action, one));
          return { id: one.id, record: null };
        }),
      );
    const whole = takesBack(at.view.view(at.table), action, done[0]?.role ?? '')?.action.several === 'all or nothing';
    if (whole && done.length > 1 && outcomes.some((each) => !each.done)) throw new SomeRefused(outcomes);
    return outcomes;
  });
}

async function takeBackOne(at: TableWrite, action: string, { id, role, was, put }: PressDone): Promise<void> {
  const { view, table } = at;
  const way = takesBack(view.view(table), action, role);
  const key = readRecordId(table, id);
  const columns = Object.keys(was);
  const writes = (column: string) => way?.writes.has(column) || way?.move?.column === column;
  if (!way || !isTakenBack(way.action) || !key || !columns.every(writes)) throw new NotFound('action');
  const now = await stored(at, key, columns);
  if (!now) throw new NotFound();
  if (columns.some((column) => !sameValue(now[column] ?? null, put[column] ?? null)))
    throw new Refused('It was changed since, so it was not taken back.');
  const set = new Map([...Object.entries(was), ...stamped(view, way.stamps, 'change')]);
  try {
    await underPolicy(at, key, sql`UPDATE ${storedTable(table)} SET ${assignments(set, view.dialect)}`, () => []);
  } catch (error) {
    throw readableError(error, table, columns);
  }
  await refuseForeignCombinations(at, key, columns);
  await refuseBroken(at, key, { isNew: false, columns: new Set(set.keys()) }, () => false);
  // As it was it must be a record with which they could do it now.
  if (!(await keeps(at, key, [bothRows(way.rows, way.where)])))
    throw new Refused('With that the record would not be yours, so it was not taken back.');
}
