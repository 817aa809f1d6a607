import { usesClock } from '../condition/analyse';
import { checkCondition } from '../condition/check';
import { prepare, test, type RecordReader } from '../condition/prepare';
import { existsOf, pathsOf, type Condition } from '../condition/tree';
import type { PortalDefinition, Roster } from '../definition/definition';
import { findRosterTable, type Catalogue, type Table } from '../table/catalogue';
import type { Row } from '../table/value';

/**
 * What keeps a rule from giving roles, in words; null when it is sound. A role depends on the row alone: not on who
 * asks, the day, or other records.
 */
export function roleRuleProblem(where: Condition, catalogue: Catalogue, table: Table): string | null {
  const scope = { catalogue, table, member: false };
  const problem = checkCondition(where, scope)[0];
  if (problem) return problem.reason;
  if (usesClock(where, scope)) return "a role doesn't come and go with the day; compare with a fixed value";
  return existsOf(where).length > 0 || pathsOf(where).some((path) => path.length > 1)
    ? "a role is given by the row's own columns, not by records that it is related to"
    : null;
}

/** The roles that a roster may give, each once, in the order of its rules. */
export function rolesGiven(roster: Roster): string[] {
  return [
    ...new Set([...(roster.role === undefined ? [] : [roster.role]), ...(roster.roles ?? []).map((rule) => rule.role)]),
  ];
}

const noFacts = { facts: {}, today: '', now: '' };
const known = new WeakMap<Roster, { catalogue: Catalogue; of: (row: Row) => string[] }>();

/** The roles that a roster gives the member whose row it is. A rule that doesn't work gives none: it fails closed. */
function rosterRoles(roster: Roster, catalogue: Catalogue, row: Row): string[] {
  const found = known.get(roster);
  if (found?.catalogue === catalogue) return found.of(row);
  const of = rolesByRow(roster, catalogue);
  known.set(roster, { catalogue, of });
  return of(row);
}

function rolesByRow(roster: Roster, catalogue: Catalogue): (row: Row) => string[] {
  const table = findRosterTable(catalogue, roster.table);
  const always = roster.role === undefined ? [] : [roster.role];
  const rules = !table
    ? []
    : (roster.roles ?? [])
        .filter((rule) => roleRuleProblem(rule.where, catalogue, table) === null)
        .map((rule) => ({ role: rule.role, prepared: prepare(rule.where, { catalogue, table, member: false }) }));
  return (row) => [
    ...new Set([
      ...always,
      ...rules.filter((rule) => test(rule.prepared, ownColumns(row), noFacts) === true).map((rule) => rule.role),
    ]),
  ];
}

function ownColumns(row: Row): RecordReader {
  return { value: (path) => (Object.hasOwn(row, path[0]!) ? row[path[0]!]! : null), exists: () => false };
}

/** The roles that the person's roster rows give them under a definition, each once. */
export function rolesOfRows(
  definition: PortalDefinition,
  catalogue: Catalogue,
  rows: Readonly<Record<string, Row>>,
): string[] {
  return [
    ...new Set(
      definition.rosters.flatMap((roster) =>
        Object.hasOwn(rows, roster.table) ? rosterRoles(roster, catalogue, rows[roster.table]!) : [],
      ),
    ),
  ];
}
