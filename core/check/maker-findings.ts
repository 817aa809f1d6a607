import type { Rows } from '../access/rows';
import { neededColumns } from '../access/view';
import { columnsUsed } from '../condition/analyse';
import { describeOperand } from '../condition/describe';
import type { Operand, Condition } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { findColumn } from '../table/catalogue';
import { branchesOf } from './branch-findings';
import type { Finding } from './finding';
import { type Granted, within, whole } from './granted';

/**
 * Equalities of a column of the table with a fact of the member that every row of the rule satisfies: whose a record
 * is.
 */
export function ownMarks(rows: Rows): { column: string; fact: Operand }[] {
  if (rows === 'no row') return [];
  const marks = (condition: Condition): { column: string; fact: Operand }[] => {
    if (condition.kind === 'all') return condition.parts.flatMap(marks);
    if (condition.kind !== 'compare' || condition.comparison !== '=') return [];
    const [column, fact] =
      condition.left.kind === 'column' ? [condition.left, condition.right] : [condition.right, condition.left];
    return column.kind === 'column' && column.path.length === 1 && fact.kind === 'member'
      ? [{ column: column.path[0]!, fact }]
      : [];
  };
  return rows.flatMap((part) => marks(part.where));
}

export function makers(definition: PortalDefinition, { grant, lens, scope, role, table, place }: Granted): Finding[] {
  if (!lens?.create || !grant.create) return [];
  const found: Finding[] = [];
  const stamped = (column: string) =>
    (definition.stamps ?? []).some(
      (stamp) =>
        stamp.table === table.name &&
        stamp.column === column &&
        stamp.on !== 'change' &&
        (stamp.to === 'everyone' || stamp.to.includes(role.id)),
    );
  const filled = (column: string) =>
    lens.create!.columns.has(column) ||
    stamped(column) ||
    (definition.lifecycles ?? []).some(
      (lifecycle) => lifecycle.table === table.name && lifecycle.column === column && lifecycle.start !== undefined,
    );
  const missing = neededColumns(table).filter((column) => !filled(column));
  if (missing.length > 0)
    found.push({
      id: `needed/${table.name}/${role.id}`,
      kind: 'required column nobody fills',
      severity: 'broken',
      place,
      title: `${role.name} can't make a record of ${table.name}: nobody fills ${missing.join(', ')}`,
      why: 'The database asks for a value and has none of its own. Let the role fill it, or stamp it.',
    });
  const marks = ownMarks(lens.create.keepIn).filter(
    ({ column }) => !filled(column) && !findColumn(table, column)?.automatic,
  );
  for (const { column, fact } of marks)
    found.push({
      id: `unmarked/${table.name}/${role.id}/${column}`,
      kind: 'maker leaves no mark',
      severity: 'broken',
      place: { ...place, column },
      title: `${role.name} can't make a record of ${table.name}: nothing puts ${describeOperand(fact)} into ${column}`,
      why:
        'A new record must satisfy the keep-in rule, and this column stays empty. Stamp it, so that the record ' +
        'carries its maker without anybody typing it.',
    });
  if (
    lens.rows !== 'no row' &&
    missing.length === 0 &&
    marks.length === 0 &&
    !within(lens.create.keepIn, lens.rows, scope)
  ) {
    found.push({
      id: `maker/${table.name}/${role.id}`,
      kind: "maker can't see it",
      severity: 'broken',
      place,
      title: `${role.name} may make records of ${table.name} that they can't see afterwards`,
      why:
        'What a new record must satisfy is wider than what they see, so it vanishes in front of whoever made it, ' +
        "or becomes somebody else's.",
    });
  }
  return found;
}

export function leavesReach({ grant, lens, scope, role, table, place }: Granted): Finding[] {
  if (
    !lens?.edit ||
    grant.edit?.keepIn === undefined ||
    lens.edit.columns.size === 0 ||
    within(lens.edit.keepIn, lens.edit.rows, scope)
  )
    return [];
  const where = whole(lens.edit.rows);
  const used =
    where && where !== 'no row'
      ? columnsUsed(where, scope)
          .filter((each) => each.table === table.name)
          .map((each) => each.column)
      : [];
  const by = [...lens.edit.columns].filter((column) => used.includes(column));
  if (by.length === 0) return [];
  return [
    {
      id: `leaves/${table.name}/${role.id}`,
      kind: 'edit moves it out of reach',
      severity: 'leak',
      place,
      title:
        `${role.name} can move a record of ${table.name} out of their reach, or into another's, by changing ` +
        `${by.join(', ')}`,
      why:
        'What must hold after an edit is wider than what may be edited. Use the edit filter itself, unless ' +
        'handing records over is meant.',
    },
  ];
}

export function ownMark({ grant, lens, role, table, place }: Granted): Finding[] {
  // Behind an OR it is told with who could take it from whom.
  if (!lens?.edit || (typeof grant.see?.where === 'object' && branchesOf(grant.see.where).length > 1)) return [];
  const marks = new Set(ownMarks(lens.rows).map((mark) => mark.column));
  return [...lens.edit.columns]
    .filter((column) => marks.has(column))
    .map((column): Finding => ({
      id: `mark/${table.name}/${role.id}/${column}`,
      kind: 'own mark can be changed',
      severity: 'leak',
      place: { ...place, column },
      title: `${role.name} may change ${table.name}.${column}, by which their own records are told`,
      why:
        'This column says whose the record is. As long as it is editable, one careless keep-in rule gives ' +
        'records away. Show it, and let nobody change it.',
    }));
}
