import { allOf } from '../condition/all-of';
import { checkCondition } from '../condition/check';
import { notTrue } from '../condition/not-true';
import { throughRelation } from '../condition/through-relation';
import type { Condition, Operand } from '../condition/tree';
import type { Grant, PortalDefinition, Roster } from '../definition/definition';
import type { HandsOver, LooksAfter, Steward } from '../definition/steward';
import { nameColumns } from '../definition/name-columns';
import { findTable, type Catalogue, type Table } from '../table/catalogue';

/**
 * What a steward may do on a table, said as a grant of their role: so that rights, Why, promises and reports know of it
 * as of any other. Null where it is about another table, or gives nothing.
 */
export function stewardGrant(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  steward: Steward,
): Grant | null {
  const own = definition.access[table.name]?.[steward.role];
  switch (steward.does) {
    case 'look after people':
      return steward.roster === table.name ? lookingAfter(definition, catalogue, table, steward) : null;
    case 'keep a table':
      return steward.table === table.name && own?.see ? { see: own.see, export: { where: 'as seen' } } : null;
    case 'hand over':
      return handingOver(definition, catalogue, table, steward, own);
  }
}

/** The rows that are looked after; a changed one must still be one of them, and a new one as well. */
function lookingAfter(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  steward: LooksAfter,
): Grant | null {
  const roster = definition.rosters.find((each) => each.table === table.name);
  const { where } = steward;
  const isSound = !where || checkCondition(where, { catalogue, table, member: true }).length === 0;
  const slice = roster && isSound ? sliceOf(roster, table, steward) : null;
  if (!roster || !slice) return null;
  const { adds, changes } = steward;
  return {
    see: { where: slice, columns: lookedAfterColumns(roster, steward) },
    ...(adds ? { create: { columns: adds, keepIn: slice } } : {}),
    ...(changes ? { edit: { where: 'as seen', columns: changes, keepIn: slice } } : {}),
  };
}

/** What is seen of those who are looked after: name and e-mail, what is said so, and what may be written. */
export function lookedAfterColumns(roster: Roster, { sees, adds = [], changes = [] }: LooksAfter): string[] {
  return [...new Set([...nameColumns(roster), roster.email, ...sees, ...adds, ...changes])];
}

/** Null where nobody can be in it. */
function sliceOf(roster: Roster, table: Table, { where, roles }: LooksAfter): Condition | null {
  const isOthers = roster.role !== undefined && !roles.includes(roster.role);
  const rules = roster.roles ?? [];
  const given = rules.filter((rule) => roles.includes(rule.role)).map((rule) => rule.where);
  if (isOthers || table.key.length === 0 || (roster.role === undefined && given.length === 0)) return null;
  // A rule's own condition is no filter of the table here: it stands with others.
  return allOf([
    ...(where ? [where] : []),
    ...(roster.role === undefined ? [anyOf(given)] : []),
    ...rules.filter((rule) => !roles.includes(rule.role)).map((rule) => notTrue(rule.where)),
    notOwn(table),
  ]);
}

/** Not the steward's own row; whoever stands on another roster has none here. */
function notOwn(table: Table): Condition {
  return anyOf(
    table.key.flatMap((column): Condition[] => {
      const own: Operand = { kind: 'member', fact: [table.name, column] };
      return [
        { kind: 'null', left: own },
        { kind: 'compare', left: { kind: 'column', path: [column] }, comparison: '<>', right: own },
      ];
    }),
  );
}

/**
 * Of the records that the role sees, the column that leads to whose they are may be changed: from one of the slice to
 * one of the slice who counts.
 */
function handingOver(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  { roster: name, where, tables }: HandsOver,
  own: Grant | undefined,
): Grant | null {
  const part = tables.find((each) => each.table === table.name);
  const roster = definition.rosters.find((each) => each.table === name);
  const there = findTable(catalogue, name);
  const relation = part && table.relations.find((each) => each.column === part.column && each.table === name);
  if (!part || !roster || !there || !relation || !own?.see) return null;
  // People are told apart by the row's key.
  if (there.key.length !== 1 || relation.targetColumn !== there.key[0]) return null;
  const seen = own.see.where === 'every row' ? [] : [own.see.where];
  const from = where ? throughRelation(where, relation.name) : null;
  const to = [where, roster.where].flatMap((each) => (each ? [throughRelation(each, relation.name)] : []));
  const isSomebodys: Condition = { kind: 'not', part: { kind: 'null', left: { kind: 'column', path: [part.column] } } };
  return {
    see: { where: own.see.where, columns: [part.column] },
    edit: {
      where: allOf([...seen, ...(part.where ? [part.where] : []), from ?? isSomebodys]),
      columns: [part.column],
      keepIn: allOf([...seen, isSomebodys, ...to]),
    },
  };
}

const anyOf = (parts: Condition[]): Condition => (parts.length === 1 ? parts[0]! : { kind: 'any', parts });
