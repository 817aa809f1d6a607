import { checkCondition } from '../condition/check';
import { factsUsed } from '../condition/analyse';
import { describeCondition, describeOperand } from '../condition/describe';
import type { CompareCondition, Condition } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { findColumn, findTable, type Catalogue, type Table } from '../table/catalogue';
import type { Finding, Place } from './finding';
import type { Granted } from './granted';

/**
 * Mistakes inside of a condition: branches of an OR that are open, owners' columns that others may write, the wrong
 * number of the member.
 */
export function findBranchFaults(
  definition: PortalDefinition,
  catalogue: Catalogue,
  granted: readonly Granted[],
): Finding[] {
  return granted.flatMap((each) => [
    ...openBranches(each),
    ...marksOfOthers(each),
    ...wrongIds(definition, catalogue, each),
  ]);
}

/** The parts of a condition of which one is enough; the condition itself where there is no OR at its top. */
export function branchesOf(condition: Condition): Condition[] {
  return condition.kind === 'any' ? condition.parts.flatMap(branchesOf) : [condition];
}

function seen({ grant, scope }: Granted): Condition | null {
  const where = grant.see?.where;
  return typeof where === 'object' && checkCondition(where, scope).length === 0 ? where : null;
}

function openBranches(each: Granted): Finding[] {
  const where = seen(each);
  const branches = where ? branchesOf(where) : [];
  const own = branches.filter((branch) => factsUsed(branch, each.scope).length > 0);
  // Where none asks who it is, the whole is meant for all.
  if (own.length === 0 || own.length === branches.length) return [];
  return branches.flatMap((branch, i): Finding[] =>
    own.includes(branch)
      ? []
      : [
          {
            id: `branch/${each.table.name}/${each.role.id}/${i}`,
            kind: 'branch without the member',
            severity: 'leak',
            place: { ...each.place, what: String(i) },
            title:
              `Every ${each.role.name} sees the rows of ${each.table.name} where ${describeCondition(branch)}, ` +
              'whosever they are',
            why:
              'The other parts of this "or" ask who it is, this one doesn\'t, so it lets the same rows through ' +
              'for everyone. Put "and" before it, or take it out, unless it is meant for all.',
          },
        ],
  );
}

/** Columns by which a record is somebody's, in one branch of an OR or another. */
function marksInBranches(where: Condition): { column: string; branch: Condition }[] {
  const marks = (condition: Condition): string[] => {
    if (condition.kind === 'all') return condition.parts.flatMap(marks);
    if (condition.kind !== 'compare' || condition.comparison !== '=') return [];
    const [column, fact] =
      condition.left.kind === 'column' ? [condition.left, condition.right] : [condition.right, condition.left];
    return column.kind === 'column' && column.path.length === 1 && fact.kind === 'member' ? [column.path[0]!] : [];
  };
  return branchesOf(where).flatMap((branch) => marks(branch).map((column) => ({ column, branch })));
}

function marksOfOthers(each: Granted): Finding[] {
  const where = seen(each);
  if (!where || where.kind !== 'any' || !each.lens?.edit) return [];
  const marks = marksInBranches(where);
  return [...new Set(marks.map((mark) => mark.column))]
    .filter((column) => each.lens!.edit!.columns.has(column))
    .map((column): Finding => {
      const others = [...new Set(marks.filter((mark) => mark.column !== column).map((mark) => mark.column))];
      return {
        id: `mark/${each.table.name}/${each.role.id}/${column}`,
        kind: 'own mark can be changed',
        severity: 'leak',
        place: { ...each.place, column },
        title: `${each.role.name} may change ${each.table.name}.${column}, by which records are told to be somebody's`,
        why:
          others.length > 0
            ? `Whoever has a record by ${others.join(' or ')} could write themselves, or anybody, into ` +
              `${column}, and so take it from who is there. Show it, and let nobody change it.`
            : 'This column says whose the record is. As long as it is editable, one careless keep-in rule gives ' +
              'records away. Show it, and let nobody change it.',
      };
    });
}

/** Comparisons of `:member.id`, the number in this portal, with what holds a roster's own key. */
export function wrongIdsIn(
  definition: PortalDefinition,
  catalogue: Catalogue,
  table: Table,
  where: Condition,
): { column: string; fact: [string, string] }[] {
  const found: { column: string; fact: [string, string] }[] = [];
  const walk = (condition: Condition): void => {
    if (condition.kind === 'all' || condition.kind === 'any') condition.parts.forEach(walk);
    else if (condition.kind === 'not') walk(condition.part);
    else if (condition.kind === 'compare') {
      const [column, fact] =
        condition.left.kind === 'column' ? [condition.left, condition.right] : [condition.right, condition.left];
      if (
        column.kind !== 'column' ||
        column.path.length !== 1 ||
        fact.kind !== 'member' ||
        fact.fact.length !== 1 ||
        fact.fact[0] !== 'id'
      )
        return;
      const [name] = column.path as [string];
      const relation = table.relations.find((each) => each.column === name);
      const leads = relation
        ? { table: relation.table, column: relation.targetColumn }
        : table.key.length === 1 && table.key[0] === name
          ? { table: table.name, column: name }
          : null;
      if (
        leads &&
        definition.rosters.some((roster) => roster.table === leads.table) &&
        findColumn(findTable(catalogue, leads.table)!, leads.column)
      )
        found.push({ column: name, fact: [leads.table, leads.column] });
    }
  };
  walk(where);
  return found;
}

/** The condition with the right number in the place of the wrong. */
export function withRightIds(where: Condition, column: string, fact: [string, string]): Condition {
  switch (where.kind) {
    case 'all':
    case 'any':
      return { ...where, parts: where.parts.map((part) => withRightIds(part, column, fact)) };
    case 'not':
      return { ...where, part: withRightIds(where.part, column, fact) };
    case 'compare': {
      const is = (operand: CompareCondition['left']) =>
        operand.kind === 'column' && operand.path.length === 1 && operand.path[0] === column;
      const right = <T extends CompareCondition['left']>(operand: T): CompareCondition['left'] =>
        operand.kind === 'member' && operand.fact.length === 1 && operand.fact[0] === 'id'
          ? { kind: 'member', fact }
          : operand;
      return is(where.left) || is(where.right)
        ? { ...where, left: right(where.left), right: right(where.right) }
        : where;
    }
    default:
      return where;
  }
}

function wrongIds(definition: PortalDefinition, catalogue: Catalogue, each: Granted): Finding[] {
  const filters: [string, unknown][] = [
    ['see', each.grant.see?.where],
    ['edit', each.grant.edit?.where],
    ['delete', each.grant.delete?.where],
    ['export', each.grant.export?.where],
  ];
  return filters.flatMap(([what, where]) =>
    (typeof where === 'object' && where !== null && checkCondition(where as Condition, each.scope).length === 0
      ? wrongIdsIn(definition, catalogue, each.table, where as Condition)
      : []
    ).map(({ column, fact }): Finding => ({
      id: `wrong-id/${each.table.name}/${each.role.id}/${what}/${column}`,
      kind: 'another number',
      severity: 'leak',
      place: { ...each.place, column, what } satisfies Place,
      title:
        `The ${what} filter of ${each.role.name} on ${each.table.name} compares ${column} with ` +
        `${describeOperand({ kind: 'member', fact: ['id'] })}, which is another number`,
      why:
        `${column} holds numbers of ${fact[0]}; :member.id is the member's number in this portal. Where the two ` +
        `happen to be alike, somebody gets another's record. Compare with :member.${fact.join('.')}.`,
    })),
  );
}
