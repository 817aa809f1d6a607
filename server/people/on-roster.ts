import { rosterRows } from '../gate/gate';
import type { RosterAt } from './rosters-at';

/** Whether a row of any of the rosters carries the address, whether or not it makes anybody a member. */
export async function isOnRoster(rosters: readonly RosterAt[], email: string): Promise<boolean> {
  for (const { roster, runner, catalogue } of rosters)
    if (((await rosterRows(runner, catalogue, roster, { emails: [email] })) ?? []).length > 0) return true;
  return false;
}
