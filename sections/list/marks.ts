import { contextOf } from '../../core/access/person';
import { checkCondition } from '../../core/condition/check';
import { evaluate } from '../../core/condition/evaluate';
import { existsOf, pathsOf } from '../../core/condition/tree';
import { printPath } from '../../core/definition/path';
import { findTable } from '../../core/table/catalogue';
import type { PlacedVisit, ViewRecord } from '../../server/gate/gate';
import type { ListMark } from './spec';

/** The columns that marks are decided by. */
export const pathsOfMarks = (marks: ListMark[]): string[][] => marks.flatMap(({ where }) => pathsOf(where));

/** Those of which everything that they ask is among the columns that somebody sees. */
export const decidable = (marks: ListMark[], seen: ReadonlySet<string>): ListMark[] =>
  marks.filter(({ where }) => pathsOf(where).every((path) => seen.has(printPath(path))));

/**
 * The ids of the marks that each record has, as far as this person can tell: by what they see of it whole. Where a
 * value that a mark asks for is hidden or masked, it isn't marked, since the mark would tell them of it.
 */
export function marksOf(visit: PlacedVisit, tableName: string, marks: ListMark[], records: ViewRecord[]): string[][] {
  const { catalogue, definition, person, moment } = visit;
  const table = findTable(catalogue, tableName);
  if (!table) return records.map(() => []);
  const scope = { catalogue, table, member: true };
  const context = contextOf(person, moment, definition.portal.timeZone);
  const asked = marks
    .filter(({ where }) => existsOf(where).length === 0 && checkCondition(where, scope).length === 0)
    .map(({ id, where }) => ({ id, where, paths: pathsOf(where).map(printPath) }));
  return records.map(({ values, masked }) =>
    asked
      .filter(({ where, paths }) => {
        if (!paths.every((path) => Object.hasOwn(values, path) && !masked.includes(path))) return false;
        const read = { value: (path: readonly string[]) => values[printPath([...path])] ?? null, exists: () => false };
        return evaluate(where, scope, read, context) === true;
      })
      .map(({ id }) => id),
  );
}
