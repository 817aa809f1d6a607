import { tableRights, type ActionWay } from '../../../core/access/rights';
import { visibleColumns } from '../../../core/access/view';
import { actionsOf, type Action } from '../../../core/definition/action';
import { sameValue, type Value } from '../../../core/table/value';
import type { Source } from '../../sources/source';
import { readState, type RowState } from '../read/read';
import { named } from '../view/column-names';
import { Conflict, NotFound, Refused } from '../view/errors';
import { readRecordId } from '../view/record-id';
import { atTable, type TableWrite } from '../view/table-visit';
import type { Visit } from '../view/visit';
import { readAsked } from './asked';
import { pathsMailed, pathsRead } from './step-values';
import { doSteps, type Acted, type HowDone } from './steps';
import { attempting } from './transaction-log';
import type { WriteOptions } from './write';
import { writing } from './writing';

/** What a press carries: what was given to what the action asks, and what was seen of the record. */
export interface Press {
  asked: Record<string, unknown>;
  /** Values as they were shown, by path: where one that the action goes by is another now, nothing is done. */
  seen?: Record<string, unknown>;
}

/**
 * Does an action with a record of the person's view, all of its steps in one transaction: the record is locked, the
 * right to the action is tested on it, the policy stands in the UPDATE's own WHERE, and what must hold afterwards is
 * tested after it. Throws Refused in one uniform sentence where the action can't be done with the record now.
 */
export async function act(
  source: Source,
  visit: Visit,
  table: string,
  id: string,
  action: string,
  press: Press,
  options: WriteOptions = {},
): Promise<Acted> {
  const notes = options.notes === true;
  return writing(source, visit, options, (runner) =>
    actIn(atTable(runner, visit, table), id, action, press, { notes }),
  );
}

/** As `act`, at a table inside a transaction; without `tells` nothing is read of what came of it. */
export async function actIn(
  at: TableWrite,
  id: string,
  actionId: string,
  press: Press,
  { tells = true, notes = false }: Pick<HowDone, 'tells' | 'notes'> = {},
): Promise<Acted> {
  const { runner, visit } = at;
  const view = at.view.view(at.table);
  const action = actionsOf(visit.definition.actions, at.table.name).find((each) => each.id === actionId);
  if (!action || !tableRights(view).actions.includes(action)) throw new NotFound('action');
  const key = readRecordId(at.table, id);
  const seen = visibleColumns(view).map((column) => [column]);
  // What was seen is held against all of it; without that, only what the steps go by is read.
  const paths = [...(tells ? seen : seen.slice(0, 1)), ...pathsRead(action), ...pathsMailed(action)];
  const before = key && (await readState(at, key, paths, true));
  if (!before) throw new NotFound();
  const found = before.rights.actions.find((each) => each.action === action);
  if (!found) throw new Refused("This can't be done with this record now.");
  if (press.seen) refuseStale(action, found.ways[0]!, press.seen, before);
  const asked = await readAsked(at, action, press.asked);
  const [only, ...others] = found.ways;
  const lost = () => new Refused('With this the record would no longer be yours, so nothing was done.');
  if (others.length === 0) {
    const acted = await doSteps(at, key, before, only!, asked, { tells, notes });
    if (!acted) throw lost();
    return acted;
  }
  for (const way of found.ways) {
    const acted = await attempting(runner, () => doSteps(at, key, before, way, asked, { tells, notes }));
    if (acted) return acted;
  }
  throw lost();
}

/** What the action writes or goes by must be as it was seen: a press that comes twice finds it changed. */
function refuseStale(action: Action, way: ActionWay, seen: Record<string, unknown>, { record }: RowState): void {
  const own = tableColumns(action, way);
  const conflicts: Conflict['fields'] = {};
  for (const column of own) {
    const path = named(column);
    const now = record.values[path];
    if (!Object.hasOwn(seen, path) || now === undefined || record.masked.includes(path)) continue;
    if (!sameValue(now, (seen[path] ?? null) as Value))
      conflicts[path] = { was: (seen[path] ?? null) as Value, now, yours: null };
  }
  if (Object.keys(conflicts).length > 0) throw new Conflict(conflicts);
}

function tableColumns(action: Action, way: ActionWay): Set<string> {
  const read = pathsRead(action).flatMap((path) => (path.length === 1 ? path : []));
  return new Set([...read, ...Object.keys(way.set), ...(way.move ? [way.move.column] : [])]);
}
