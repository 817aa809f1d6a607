import { planStanding } from '../../core/people/standing-plan';
import { rosterRows } from '../gate/gate';
import type { RosterAt } from './rosters-at';
import { standingRow } from './settle';

/** The rows that make whoever has an address a member: one of a roster at most, for two of one are nobody's. */
export async function rowsByAddress(
  rosters: readonly RosterAt[],
  email: string,
): Promise<{ roster: string; key: string }[]> {
  const rows = await Promise.all(
    rosters.map(async ({ roster, runner, catalogue }) =>
      ((await rosterRows(runner, catalogue, roster, { emails: [email] })) ?? []).flatMap(
        (row) => standingRow(roster.table, row) ?? [],
      ),
    ),
  );
  const names = rosters.map(({ roster }) => roster.table);
  return planStanding(names, [], rows.flat()).fresh.flatMap((each) => (each.email === email ? each.rows : []));
}
