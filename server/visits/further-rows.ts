import type { CoreServices } from '../definitions/portal-services';
import type { PortalDefinition } from '../../core/definition/definition';
import { isRosterRead, type Visit } from '../gate/gate';
import { rostersOf } from '../people/rosters-at';
import { rowsByAddress } from '../people/rows-by-address';
import { keptWithStore } from '../store/kept-with-store';

/** Looking takes at most one part in so many of a server's time for each member, and happens at most this often. */
const share = 500;
const leastPause = 2000;
const mostKept = 10_000;

/** When a member is to be looked at next, by their number. */
const nextLooks = keptWithStore(() => new Map<number, number>());

/** The rosters of which an index doesn't tell it, where it is time to look into them; none where it isn't. */
function dueRosters(
  { definition, person }: Pick<Visit, 'definition' | 'person'>,
  told: ReadonlyMap<string, unknown> | null,
): PortalDefinition['rosters'] {
  if (person.id === null || person.email === null || (nextLooks().get(person.id) ?? 0) > Date.now()) return [];
  return definition.rosters.filter(({ table }) => !told?.has(table));
}

/** Whether it is time to look something up of which `told` says nothing. */
export const isLookDue = (
  visit: Pick<Visit, 'definition' | 'person'>,
  told: ReadonlyMap<string, unknown> | null,
): boolean => dueRosters(visit, told).length > 0;

/**
 * Whether the rows of somebody's address are others than those that they are here by. Where an index tells it beside
 * the session, `told` holds the roster and nothing is asked here; where none does, as at another database, it is looked
 * up every few seconds at most, as it takes long in a large table.
 */
export async function hasOtherRows(
  services: CoreServices,
  visit: Pick<Visit, 'definition' | 'person'>,
  told: ReadonlyMap<string, unknown> | null,
): Promise<boolean> {
  const { definition, person } = visit;
  const untold = dueRosters(visit, told);
  if (untold.length === 0 || person.id === null || person.email === null) return false;
  const looks = nextLooks();
  const now = Date.now();
  // The others of this moment need not look as well.
  if (looks.size >= mostKept) looks.clear();
  looks.set(person.id, now + leastPause);
  const began = performance.now();
  const rosters = (await rostersOf(services, { ...definition, rosters: untold })).filter(({ catalogue, roster }) =>
    isRosterRead(catalogue, roster),
  );
  const rows = await rowsByAddress(rosters, person.email);
  looks.set(person.id, now + Math.max(leastPause, share * (performance.now() - began)));
  return rosters.some(
    ({ roster: { table } }) => Object.hasOwn(person.rows, table) !== rows.some(({ roster }) => roster === table),
  );
}
