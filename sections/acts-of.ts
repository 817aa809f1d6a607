import { tableRights } from '../core/access/rights';
import { contextOf } from '../core/access/person';
import { evaluate } from '../core/condition/evaluate';
import { pathsOf } from '../core/condition/tree';
import { printPath } from '../core/definition/path';
import { findTable, type Table } from '../core/table/catalogue';
import type { ActionLens } from '../core/access/action-rights';
import { viewSql, type PlacedVisit, type ViewRecord } from '../server/gate/gate';
import { offersWrites } from '../server/records/offered';

/** A section at whose records actions are offered. */
export interface Acting {
  table: string;
  /** Those whose buttons stand at each record. */
  acts?: string[];
  /** Whether several of its records can be ticked and acted upon. */
  ticks?: boolean;
}

/** The actions that a section offers at its records, of those that this person has the right to. */
export function actsOffered(visit: PlacedVisit, { table: name, acts = [] }: Acting): string[] {
  const table = findTable(visit.catalogue, name);
  const theirs = table && offersWrites(visit) ? tableRights(viewSql(visit).view(table)).actions : [];
  return acts.filter((id) => theirs.some((action) => action.id === id));
}

/** Those, and where records are ticked what can be done with several at once. */
function actsKnown(visit: PlacedVisit, section: Acting): string[] {
  const table = findTable(visit.catalogue, section.table);
  const theirs = table && offersWrites(visit) ? tableRights(viewSql(visit).view(table)).actions : [];
  const offered = actsOffered(visit, section);
  return theirs
    .filter(({ id, several }) => (section.ticks === true && several !== undefined) || offered.includes(id))
    .map(({ id }) => id);
}

/** One role's way of an action, where this person may be told with which records it can be done. */
const waysTold = (visit: PlacedVisit, table: Table, id: string): ActionLens[] | null => {
  const view = viewSql(visit);
  const ways = view.view(table).lenses.flatMap((lens) => lens.actions.filter(({ action }) => action.id === id));
  return ways.every(({ action }) => view.tells(table, action)) ? ways : null;
};

/** The columns that are read beside those of a section, to tell with which records its actions can be done. */
export function pathsOfActs(visit: PlacedVisit, section: Acting): string[][] {
  const table = findTable(visit.catalogue, section.table);
  if (!table) return [];
  return actsKnown(visit, section).flatMap((id) =>
    (waysTold(visit, table, id) ?? []).flatMap(({ where, move }) => [
      ...(where === 'no row' ? [] : where.flatMap((part) => pathsOf(part.where))),
      ...(move ? [[move.column]] : []),
    ]),
  );
}

/**
 * Which actions are offered at each record: those that can be done as far as this person sees, and those of which they
 * can't be told. The press itself decides. Null where there are none.
 */
export function actsOf(visit: PlacedVisit, section: Acting, records: ViewRecord[]): string[][] | null {
  const { catalogue, definition, person, moment } = visit;
  const table = findTable(catalogue, section.table);
  if (!table) return null;
  const offered = actsKnown(visit, section).map((id) => ({ id, ways: waysTold(visit, table, id) }));
  if (offered.length === 0) return null;
  const scope = { catalogue, table, member: true };
  const context = contextOf(person, moment, definition.portal.timeZone);
  const holds = ({ where, move }: ActionLens, values: ViewRecord['values']): boolean => {
    if (move && !move.move.from.includes(String(values[printPath([move.column])]))) return false;
    const read = { value: (path: readonly string[]) => values[printPath([...path])] ?? null, exists: () => false };
    return where !== 'no row' && where.every((part) => evaluate(part.where, scope, read, context) === true);
  };
  return records.map(({ values }) =>
    offered.filter(({ ways }) => ways === null || ways.some((way) => holds(way, values))).map(({ id }) => id),
  );
}
