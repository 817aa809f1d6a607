import { actionsOf, columnsWritten } from '../../core/definition/action';
import { read } from '../gate/gate';
import { onceKept } from '../sources/outcome-unknown';
import type { PortalVisit } from '../visits/member-visit';

/** Where an action wrote an address into a row of a roster, whoever was known by the one before is told. */
export async function tellAddress(visit: PortalVisit, table: string, id: string, actionId: string): Promise<void> {
  const roster = visit.definition.rosters.find((each) => each.table === table);
  const action = actionsOf(visit.definition.actions, table).find((each) => each.id === actionId);
  if (!roster || !action || !columnsWritten(action).includes(roster.email)) return;
  const now = await read(visit.source, visit, table, id, [[roster.email]]).catch(() => null);
  const address = String(now?.values[roster.email] ?? '');
  if (visit.addressWritten) await onceKept(visit.addressWritten({ roster: table, key: id }, address));
}
