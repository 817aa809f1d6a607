import { findTable } from '../../core/table/catalogue';
import { tableRights } from '../../core/access/rights';
import { printPath } from '../../core/definition/path';
import { NotFound, read, viewSql } from '../gate/gate';
import type { PortalVisit } from '../visits/member-visit';
import { closeDiscussed, discussedOf, reopenDiscussed } from './discussed-records';

/** What becomes of what is said of records when somebody deletes them, makes some under another's key, or undoes it. */

const tableOf = (visit: PortalVisit, tableName: string) => ({ portalId: visit.portalId, tableName });

const keyOf = (visit: PortalVisit, tableName: string, id: string) => ({
  columns: findTable(visit.catalogue, tableName)?.key ?? [],
  id,
});

/**
 * What a record holds, as a digest: the same for one that is made again with all that it held, but for its key and what
 * the server or the database puts in. Null where it is not in the person's view, or they don't see all of that whole:
 * from whether its talk came back they would learn the rest.
 */
async function heldIn(visit: PortalVisit, tableName: string, id: string): Promise<string | null> {
  const table = findTable(visit.catalogue, tableName);
  if (!table || !visit.standIn) return null;
  const rights = tableRights(viewSql(visit).view(table));
  const paths = table.columns
    .filter(({ name, automatic, setOnChange }) => !automatic && !setOnChange && !table.key.includes(name))
    .filter(({ name }) => !rights.stamps(name))
    .map(({ name }) => [name]);
  const record = await read(visit.source, visit, tableName, id, paths).catch((error: unknown) => {
    if (error instanceof NotFound) return null;
    throw error;
  });
  const names = paths.map(printPath);
  const isWhole = record !== null && names.every((path) => path in record.values && !record.masked.includes(path));
  return isWhole ? visit.standIn.hmac(JSON.stringify(names.map((path) => [path, String(record.values[path])]))) : null;
}

/** What records hold that are about to be deleted, by id, of those of which something was said. */
export async function heldBefore(
  visit: PortalVisit,
  table: string,
  ids: readonly string[],
): Promise<ReadonlyMap<string, string>> {
  const held = new Map<string, string>();
  const keys = ids.map((id) => keyOf(visit, table, id));
  for (const id of await discussedOf(tableOf(visit, table), keys)) {
    const digest = await heldIn(visit, table, id);
    if (digest !== null) held.set(id, digest);
  }
  return held;
}

/**
 * The records are gone, or made anew under a key that was another's: what was said of those is over. The write is done
 * by then, whatever becomes of this: what is left open is looked for in the background.
 */
export async function closeTalk(
  visit: PortalVisit,
  table: string,
  ids: readonly string[],
  held: ReadonlyMap<string, string> = new Map(),
): Promise<void> {
  const others = ids.filter((id) => !held.has(id));
  const close = (of: readonly string[], digest: string | null) =>
    closeDiscussed(
      tableOf(visit, table),
      of.map((id) => keyOf(visit, table, id)),
      { by: visit.person.id, held: digest },
    );
  try {
    await close(others, null);
    for (const [id, digest] of held) if (ids.includes(id)) await close([id], digest);
  } catch {
    // As said: it is looked for.
  }
}

/** A record was made in the place of one that was deleted: if it is the same, what was said of that is its own. */
export async function bringTalkBack(visit: PortalVisit, table: string, was: string, is: string): Promise<void> {
  const { id: by } = visit.person;
  if (by === null) return;
  try {
    const held = await heldIn(visit, table, is);
    const [old, now] = [keyOf(visit, table, was), keyOf(visit, table, is)];
    if (held !== null) await reopenDiscussed(tableOf(visit, table), old, now, { by, held });
  } catch {
    // The record is there; what was said of it stays closed.
  }
}
