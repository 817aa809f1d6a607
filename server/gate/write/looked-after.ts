import type { Value } from '../../../core/table/value';
import { Refused } from '../view/errors';
import type { TableVisit } from '../view/table-visit';

/**
 * What a steward does to a roster's row must make nobody of another person: asked of whoever knows the members, before
 * it is written. `values` are those that change.
 */
export async function refuseOthers(
  { visit, table }: TableVisit,
  steward: string,
  id: string | null,
  values: ReadonlyMap<string, Value>,
): Promise<void> {
  const asked = visit.definition.stewards?.find((each) => each.id === steward);
  if (asked?.does !== 'look after people') return;
  const roster = visit.definition.rosters.find((each) => each.table === table.name);
  if (!roster || !visit.lookAfter) throw new Refused('You look after nobody here.');
  const email = id === null || values.has(roster.email) ? { email: values.get(roster.email) ?? null } : {};
  await visit.lookAfter({ steward, id, ...email });
}
