import { at, type PlacedVisit } from '../server/gate/gate';
import { isSourceAway } from '../server/sources/connection-problem';

/** Null while the source is away: what is there is not shown then, and the rest of the portal goes on. */
export async function reached(visit: PlacedVisit, table: string): Promise<PlacedVisit | null> {
  return at(visit, table).catch((error: unknown) => {
    if (isSourceAway(error)) return null;
    throw error;
  });
}
