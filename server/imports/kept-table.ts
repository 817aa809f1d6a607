import type { KeepsTable } from '../../core/definition/steward';
import { NotFound, type Visit } from '../gate/gate';

/** What somebody brings files by: the table that they keep as a steward. Throws NotFound where they keep none by it. */
export function keptBy({ definition, person }: Visit, id: string): KeepsTable {
  const steward = definition.stewards?.find((each) => each.id === id);
  if (steward?.does !== 'keep a table' || !person.roles.includes(steward.role)) throw new NotFound('page');
  return steward;
}

/** Members bring files only into what they keep. */
export function refuseNotKept(visit: Visit, table: string, steward: string | undefined): void {
  if (visit.person.kind === 'builder') return;
  if (steward === undefined || keptBy(visit, steward).table !== table) throw new NotFound('table');
}

/** Under what the mapping of the last time is kept: a steward's apart from the builders', whose files hold more. */
export const mappingOf = (table: string, steward: string | undefined): string =>
  steward === undefined ? table : `~${steward}`;
