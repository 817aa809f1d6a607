import { usesClock } from '../condition/analyse';
import { checkCondition } from '../condition/check';
import { prepare, test, type RecordReader } from '../condition/prepare';
import { existsOf, pathsOf, type Condition } from '../condition/tree';
import type { PortalDefinition, Roster } from '../definition/definition';
import { findRosterTable, type Catalogue, type Table } from '../table/catalogue';
import type { Row } from '../table/value';

/**
 * What keeps a rule of a roster from saying who counts or has a role, in words; null when it is sound. Both depend on
 * the row alone: not on who asks, the day, or other records.
 */
export function roleRuleProblem(where: Condition, catalogue: Catalogue, table: Table): string | null {
  const scope = { catalogue, table, member: false };
  const problem = checkCondition(where, scope)[0];
  if (problem) return problem.reason;
  if (usesClock(where, scope)) return "members and roles don't come and go with the day; compare with a fixed value";
  return existsOf(where).length > 0 || pathsOf(where).some((path) => path.length > 1)
    ? "the row's own columns decide, not records that it is related to"
    : null;
}

/** Whether a row counts as a member's under the roster's condition. One that doesn't work lets nobody in. */
export function countsOnRoster(roster: Roster, catalogue: Catalogue, row: Row): boolean {
  return roster.where === undefined || rulesOf(roster, catalogue).counts(row);
}

/** The roles that a roster may give, each once, in the order of its rules. */
export function rolesGiven(roster: Roster): string[] {
  return [
    ...new Set([...(roster.role === undefined ? [] : [roster.role]), ...(roster.roles ?? []).map((rule) => rule.role)]),
  ];
}

const noFacts = { facts: {}, today: '', now: '' };

interface RosterRules {
  catalogue: Catalogue;
  roles(row: Row): string[];
  counts(row: Row): boolean;
}

const known = new WeakMap<Roster, RosterRules>();

/** What a roster makes of a row. A rule that doesn't work gives nothing: it fails closed. */
function rulesOf(roster: Roster, catalogue: Catalogue): RosterRules {
  let rules = known.get(roster);
  if (rules?.catalogue !== catalogue) {
    rules = preparedRules(roster, catalogue);
    known.set(roster, rules);
  }
  return rules;
}

function preparedRules(roster: Roster, catalogue: Catalogue): RosterRules {
  const table = findRosterTable(catalogue, roster.table);
  const { where } = roster;
  const isSound = table && where && roleRuleProblem(where, catalogue, table) === null;
  const counting = isSound ? prepare(where, { catalogue, table, member: false }) : null;
  const always = roster.role === undefined ? [] : [roster.role];
  const rules = !table
    ? []
    : (roster.roles ?? [])
        .filter((rule) => roleRuleProblem(rule.where, catalogue, table) === null)
        .map((rule) => ({ role: rule.role, prepared: prepare(rule.where, { catalogue, table, member: false }) }));
  return {
    catalogue,
    counts: (row) => where === undefined || (counting !== null && test(counting, ownColumns(row), noFacts) === true),
    roles: (row) => [
      ...new Set([
        ...always,
        ...rules.filter((rule) => test(rule.prepared, ownColumns(row), noFacts) === true).map((rule) => rule.role),
      ]),
    ],
  };
}

function ownColumns(row: Row): RecordReader {
  return { value: (path) => (Object.hasOwn(row, path[0]!) ? row[path[0]!]! : null), exists: () => false };
}

/**
 * The roles that the person's roster rows give them under a definition, each once, and those that were given to them by
 * hand; somebody without a row has none.
 */
export function rolesOfRows(
  definition: PortalDefinition,
  catalogue: Catalogue,
  rows: Readonly<Record<string, Row>>,
  given: readonly string[] = [],
): string[] {
  const own = definition.rosters.filter((roster) => Object.hasOwn(rows, roster.table));
  if (own.length === 0) return [];
  const byHand = given.filter((id) =>
    definition.roles.some((role) => role.id === id && (role.for ?? 'members') === 'members'),
  );
  return [...new Set([...own.flatMap((roster) => rulesOf(roster, catalogue).roles(rows[roster.table]!)), ...byHand])];
}
