import { historyOf } from '../definition/history';
import type { PortalDefinition } from '../definition/definition';
import type { Catalogue } from '../table/catalogue';
import type { Finding } from './finding';
import type { Granted } from './granted';

/** Grants of histories that do nothing, or too much. */
export const findHistoryFaults = (definition: PortalDefinition, granted: readonly Granted[]): Finding[] =>
  granted.flatMap(({ grant, role, table, place }): Finding[] => {
    if (!grant.history) return [];
    const at = `${table.name}/${role.id}`;
    const found: Finding[] = [];
    if (!grant.see)
      found.push({
        id: `history-only/${at}`,
        kind: 'history without rows',
        severity: 'broken',
        place,
        title: `${role.name} may read what changed in ${table.name} and sees no row of it`,
        why: 'What changed stands beside records that somebody sees. Say which rows they see.',
      });
    if (historyOf(definition, table) === null)
      found.push({
        id: `history-none/${at}`,
        kind: 'no history is kept',
        severity: 'broken',
        place,
        title: `${role.name} may read what changed in ${table.name}, of which nothing is kept`,
        why: 'Let the table keep what changes in it, under Data, or take this from the role.',
      });
    if (role.for === 'visitors')
      found.push({
        id: `history-visitors/${at}`,
        kind: 'visitor reads history',
        severity: 'leak',
        place,
        title: `${role.name} reads what changed in ${table.name}, without signing in`,
        why: 'What was corrected stays to be read by everyone. Take the history from this role.',
      });
    return found;
  });

/** Tables of which a history is wanted and can't be kept. */
export function findUnkeptHistories(definition: PortalDefinition, catalogue: Catalogue): Finding[] {
  return catalogue.tables.flatMap((table): Finding[] => {
    const notes = Object.hasOwn(definition.tables, table.name) ? definition.tables[table.name] : undefined;
    if (!notes?.history || historyOf(definition, table) !== null) return [];
    return [
      {
        id: `history-unkept/${table.name}`,
        kind: 'history without a key',
        severity: 'broken',
        place: { stage: 'data', table: table.name },
        title: `${table.name} can't keep what changes in its records`,
        why: 'It has no primary key, so one record is not told apart from another. Give it one in the database.',
      },
    ];
  });
}
