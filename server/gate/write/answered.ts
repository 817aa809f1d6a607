import type { ActionWay } from '../../../core/access/rights';
import { visibleColumns } from '../../../core/access/view';
import type { CallStep } from '../../../core/definition/action';
import { plainLabel } from '../../../core/table/catalogue';
import { columnLabel } from '../../../core/definition/definition';
import { sql } from '../../../core/sql/sql';
import type { Value } from '../../../core/table/value';
import type { Source } from '../../sources/source';
import { readState } from '../read/read';
import { InvalidValues, NotFound, Refused } from '../view/errors';
import { readRecordId } from '../view/record-id';
import { atTable, type TableWrite } from '../view/table-visit';
import { storedTable } from '../view/tables';
import type { Visit } from '../view/visit';
import { happened, watch } from './happenings';
import { writing } from './writing';
import { attempting, inAction } from './transaction-log';
import { refuseForeignFiles } from './column-files';
import { refuseBroken, refuseKept } from './field-rules';
import { refuseForeignCombinations, refuseForeignRelations } from './references';
import { assignments, keeps, readableError, readValues, stamped, underPolicy, type WriteOptions } from './write';

/** Which call it was that was answered. */
export interface AnsweredCall {
  action: string;
  address: string;
  /** Its place among the steps of the action. */
  step: number;
}

/**
 * Puts what an action's call was answered into the record, by the right that whoever pressed has to the action: its
 * condition held when they pressed, all else must hold now. Throws Refused where the answer has not what it was asked
 * for, NotFound where the record is no longer theirs to see or the action no longer their right.
 */
export async function putAnswer(
  source: Source,
  visit: Visit,
  table: string,
  id: string,
  call: AnsweredCall,
  answer: unknown,
  options: WriteOptions = {},
): Promise<void> {
  await writing(source, visit, options, async (runner) => {
    const at = atTable(runner, visit, table);
    const key = readRecordId(at.table, id);
    const seen = visibleColumns(at.view.view(at.table)).slice(0, 1);
    const before =
      key &&
      (await readState(
        at,
        key,
        seen.map((column) => [column]),
        true,
      ));
    if (!before) throw new NotFound();
    const found = before.rights.answered(call.action);
    const step = found?.action.steps[call.step];
    if (!found || step?.kind !== 'call' || step.address !== call.address || !step.answers) throw new NotFound('action');
    const values = answeredValues(at, step.answers, answer);
    const putting = async (way: ActionWay) =>
      (await inAction(runner, call.action, () => putBy(at, key, way, values))) || null;
    for (const way of found.ways) if (await attempting(runner, () => putting(way))) return;
    throw new Refused('With it the record would no longer be theirs, so it was not put in.');
  });
}

/** What stands in an answer for each column, as the column takes it. */
function answeredValues(
  { table, visit: { definition } }: TableWrite,
  answers: NonNullable<CallStep['answers']>,
  answer: unknown,
): Map<string, Value> {
  const found = Object.entries(answers).map(([column, path]) => [column, path, valueAt(answer, path)] as const);
  const [missing] = found.filter(([, , value]) => value === undefined);
  if (missing) throw new Refused(`There is no ${missing[1]} in its answer.`);
  try {
    return readValues(
      table,
      found.map(([column, , value]) => [column, value]),
    );
  } catch (error) {
    if (!(error instanceof InvalidValues)) throw error;
    const [column, fault] = Object.entries(error.fields)[0]!;
    throw new Refused(`${columnLabel(definition, table.name, column, plainLabel)}: ${fault}`);
  }
}

/** What stands at a path of names in JSON; undefined where there is nothing that a cell could hold. */
function valueAt(answer: unknown, path: string): unknown {
  let at = answer;
  for (const name of path.split('.')) {
    if (typeof at !== 'object' || at === null || !Object.hasOwn(at, name)) return undefined;
    at = (at as Record<string, unknown>)[name];
  }
  return typeof at === 'object' && at !== null ? undefined : at;
}

/** False, and nothing done, when what must hold afterwards does not. */
async function putBy(at: TableWrite, key: Value[], way: ActionWay, values: Map<string, Value>): Promise<boolean> {
  const { view, table } = at;
  const told = () => true;
  const held = await watch(at, key);
  await refuseForeignRelations(at, values);
  await refuseForeignFiles(at.visit, table, values);
  await refuseKept(at, key, new Set(values.keys()), told);
  const set = new Map<string, Value>([...values, ...stamped(view, way.stamps, 'change')]);
  try {
    await underPolicy(at, key, sql`UPDATE ${storedTable(table)} SET ${assignments(set, view.dialect)}`, (tables) => [
      view.rows(tables),
      sql`(${view.filter(way.rows, tables)})`,
    ]);
  } catch (error) {
    throw readableError(error, table, [...values.keys()]);
  }
  await refuseForeignCombinations(at, key, [...values.keys()]);
  await refuseBroken(at, key, { isNew: false, columns: new Set(set.keys()) }, told);
  if (!(await keeps(at, key, [way.after]))) return false;
  happened(at, key, 'changed', { held });
  return true;
}
