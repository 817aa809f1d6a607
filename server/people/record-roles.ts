import { Op } from 'sequelize';
import { rolesOf, type KnownPerson } from '../../core/access/people';
import { findRosterTable, type Catalogue } from '../../core/table/catalogue';
import { statesUntil } from '../store/roles-sql';
import type { CoreServices } from '../definitions/portal-services';
import { Portal } from '../store/models';
import { RecordedRoles, RolesLook } from '../store/roles-model';
import { everyone } from './everyone';

/** What is recorded of a member: their roles, and of each of their rows the key. */
export interface RecordedState {
  roles: string[];
  rows: Record<string, Record<string, unknown>>;
}

const writtenAtOnce = 1000;

/**
 * Records which roles the members of a portal have now, under what is published: a line for each of whom it is another
 * than at the last look, so that it can be told later what they could see. Does nothing while nothing is published.
 */
export async function recordRoles(services: CoreServices, portalId: number, now: Date): Promise<void> {
  const portal = await Portal.findByPk(portalId);
  if (!portal || portal.publishedVersion === null) return;
  const definition = await services.definitions.version(portalId, portal.publishedVersion);
  const { source, catalogue } = await services.sources.of(definition);
  const people = await everyone(source, catalogue, [definition], portalId);
  const is = new Map(
    people.map((person): [number, string | null] => {
      const roles = rolesOf(definition, catalogue, person).toSorted();
      return [person.id!, JSON.stringify({ roles, rows: keysOf(catalogue, person) } satisfies RecordedState)];
    }),
  );
  await services.store.sequelize.transaction(async (transaction) => {
    // One look at a time, whichever server looks.
    await Portal.findByPk(portalId, { transaction, lock: true });
    const was = await statesUntil(portalId, null);
    for (const [member, state] of was) if (state !== null && !is.has(member)) is.set(member, null);
    const changed = [...is].filter(([member, state]) => (was.get(member) ?? null) !== state);
    const last = await RolesLook.findOne({ where: { portalId }, order: [['id', 'DESC']], transaction });
    if (changed.length === 0 && last) {
      await RolesLook.update({ until: now }, { where: { id: last.id, until: { [Op.lt]: now } }, transaction });
      return;
    }
    await RolesLook.create({ portalId, at: now, until: now }, { transaction });
    for (let from = 0; from < changed.length; from += writtenAtOnce)
      await RecordedRoles.bulkCreate(
        changed.slice(from, from + writtenAtOnce).map(([memberId, state]) => ({ portalId, memberId, at: now, state })),
        { transaction },
      );
  });
}

/** Of the rows of a person the keys alone. */
function keysOf(catalogue: Catalogue, { rows }: KnownPerson): RecordedState['rows'] {
  return Object.fromEntries(
    Object.entries(rows).flatMap(([roster, row]) => {
      const table = findRosterTable(catalogue, roster);
      const keys = (table?.key ?? []).map((column) => [column, String(row[column] ?? '')]);
      return table ? [[roster, Object.fromEntries(keys) as Record<string, unknown>]] : [];
    }),
  );
}
