import { checkCondition } from '../condition/check';
import type { Condition, Operand } from '../condition/tree';
import type { PortalDefinition, Roster } from '../definition/definition';
import { isPersonalName } from '../classify/evidence';
import { findTable, type Catalogue, type Relation, type Table } from '../table/catalogue';
import { rolesGiven } from './roster-roles';

/** So many to-one relations are followed from a record to whose it is. */
const mostSteps = 3;

type Drafted = Pick<PortalDefinition, 'rosters'>;

const columnOf = (path: string[]): Operand => ({ kind: 'column', path });
const factOf = (roster: Roster, column: string): Operand => ({ kind: 'member', fact: [roster.table, column] });

const same = (path: string[], fact: Operand): Condition => ({
  kind: 'compare',
  left: columnOf(path),
  comparison: '=',
  right: fact,
});

/**
 * The filters that make the table's rows "their own" for a role, found from the keys, the nearest first: the roster row
 * itself, a relation to it (`owner_id = :member.owners.id`, `sample.visit.well.owner_id = …`), or to the organisation
 * that the roster names (`lab_id = :member.lab_staff.lab_id`).
 */
export function ownRows(draft: Drafted, catalogue: Catalogue, table: Table, role: string): Condition[] {
  const found = rostersOf(draft, role).flatMap((roster) => {
    const there = findTable(catalogue, roster.table);
    const key = there?.key[0];
    if (!there || !key) return [];
    const itself = pathsTo(catalogue, table, roster.table, key).map((path) => ({
      steps: path.length,
      where: same(path, factOf(roster, key)),
    }));
    const organisation = there.relations.filter((relation) => relation.column === roster.organisation);
    return [...itself, ...beside(catalogue, table, roster, organisation).map((where) => ({ steps: 1000, where }))];
  });
  return sound(
    found.toSorted((a, b) => a.steps - b.steps).map((each) => each.where),
    catalogue,
    table,
  );
}

/** Filters by which a record is related to what the member's roster row is related to. */
function beside(catalogue: Catalogue, table: Table, roster: Roster, relations: Relation[]): Condition[] {
  return table.name === roster.table
    ? []
    : relations.flatMap((relation) =>
        pathsTo(catalogue, table, relation.table, relation.targetColumn).map((path) =>
          same(path, factOf(roster, relation.column)),
        ),
      );
}

/**
 * Filters that may be meant where the keys alone don't say whose a record is: it has records that are theirs (`EXISTS
 * (visits WHERE …)`), or a column is called like one of their roster row (`parish = :member.staff.parish`), or leads
 * where theirs does: two with one bank share no records. To be offered, not taken.
 */
export function likelyRows(draft: Drafted, catalogue: Catalogue, table: Table, role: string): Condition[] {
  const rosters = rostersOf(draft, role);
  const namesakes = rosters
    .filter((roster) => roster.table !== table.name)
    .flatMap((roster) => {
      const told = (findTable(catalogue, roster.table)?.columns ?? [])
        .filter(
          (column) =>
            column.type === 'text' &&
            column.name !== roster.name &&
            column.name !== roster.email &&
            !isPersonalName(column.name),
        )
        .map((column) => column.name);
      const named = (at: Table) =>
        told.filter((name) => at.columns.some((column) => column.name === name && column.type === 'text'));
      return [
        ...named(table).map((name) => same([name], factOf(roster, name))),
        ...table.relations.flatMap((relation) =>
          named(findTable(catalogue, relation.table) ?? table)
            .filter(() => relation.table !== table.name && relation.table !== roster.table)
            .map((name) => same([relation.name, name], factOf(roster, name))),
        ),
      ];
    });
  const related = rosters.flatMap((roster) =>
    beside(
      catalogue,
      table,
      roster,
      (findTable(catalogue, roster.table)?.relations ?? []).filter(
        (relation) => relation.column !== roster.organisation,
      ),
    ),
  );
  return sound([...havingOwn(draft, catalogue, table, role, 2), ...related, ...namesakes], catalogue, table);
}

/** "It has records that are theirs", over one to-many relation or two. */
function havingOwn(draft: Drafted, catalogue: Catalogue, table: Table, role: string, depth: number): Condition[] {
  // What the member's own row leads to is told by its facts.
  const told = [table.name, ...rostersOf(draft, role).map((roster) => roster.table)];
  return (table.many ?? []).flatMap((many): Condition[] => {
    const child = findTable(catalogue, many.table);
    if (!child || told.includes(child.name)) return [];
    // What points here by the very column that makes it theirs says nothing new of this table.
    const [own] = ownRows(draft, catalogue, child, role).filter(
      (where) =>
        where.kind === 'compare' &&
        where.left.kind === 'column' &&
        where.left.path.length === 1 &&
        where.left.path[0] !== many.column,
    );
    const inner = own ? [own] : depth > 1 ? havingOwn(draft, catalogue, child, role, depth - 1).slice(0, 1) : [];
    return inner.map((where) => ({ kind: 'exists', relation: [many.name], where }));
  });
}

function rostersOf(draft: Drafted, role: string): Roster[] {
  return draft.rosters.filter((roster) => rolesGiven(roster).includes(role));
}

/**
 * Paths from the table to a column of another that a relation leads to, by the relation's own column; the column itself
 * where the tables are one.
 */
function pathsTo(catalogue: Catalogue, table: Table, target: string, column: string): string[][] {
  if (table.name === target) return [[column]];
  const walk = (at: Table, before: string[], seen: string[]): string[][] =>
    at.relations.flatMap((relation) => {
      if (relation.table === target) return relation.targetColumn === column ? [[...before, relation.column]] : [];
      const next =
        before.length < mostSteps && !seen.includes(relation.table) ? findTable(catalogue, relation.table) : undefined;
      return next ? walk(next, [...before, relation.name], [...seen, relation.table]) : [];
    });
  return walk(table, [], [table.name]);
}

/** At most six of them, each once, and none that the table can't be asked. */
function sound(conditions: Condition[], catalogue: Catalogue, table: Table): Condition[] {
  const once = [...new Map(conditions.map((condition) => [JSON.stringify(condition), condition])).values()];
  return once
    .filter((condition) => checkCondition(condition, { catalogue, table, member: true }).length === 0)
    .slice(0, 6);
}
