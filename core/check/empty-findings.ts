import { checkCondition } from '../condition/check';
import { describeCondition } from '../condition/describe';
import type { Condition, Operand } from '../condition/tree';
import { findColumn, type Table } from '../table/catalogue';
import type { Finding } from './finding';
import type { Granted } from './granted';

/** What the data says of a draft's rules, counted by the server. */
export interface DataFacts {
  /** Of columns that a rule asks with a "not": in how many rows they are empty. */
  empties: { table: string; column: string; rows: number }[];
  /** Roles whose filter on a table lets no row through for any of their members. */
  nobody: { table: string; role: string; people: number }[];
  /** Tables whose records the key that a builder gave does not tell apart. */
  brokenKeys: string[];
  /** Sources that can't be reached, by their short names. */
  away: { name: string; reason: string }[];
}

/**
 * Columns of the table that a condition asks with a "not": nothing is known of an empty one, so its row passes neither
 * way.
 */
export function negatedColumns(where: Condition, table: Table): string[] {
  const found = new Set<string>();
  visitNegations(where, (column) => {
    if (findColumn(table, column)?.nullable) found.add(column);
    return null;
  });
  return [...found];
}

/** The condition with "or is empty" beside each "not" on the column. */
export function orEmpty(where: Condition, column: string): Condition {
  return visitNegations(where, (each, part) =>
    each === column ? { kind: 'any', parts: [part, { kind: 'null', left: { kind: 'column', path: [column] } }] } : null,
  );
}

/**
 * Visits every comparison with a "not" on a column of the table itself that is not beside "is empty" already; what is
 * given takes its place.
 */
function visitNegations(where: Condition, change: (column: string, part: Condition) => Condition | null): Condition {
  const ownColumn = (operands: readonly Operand[]) =>
    operands.flatMap((operand) =>
      operand.kind === 'column' && operand.path.length === 1 ? [operand.path[0]!] : [],
    )[0];
  switch (where.kind) {
    case 'any': {
      const empty = new Set(
        where.parts.flatMap((part) =>
          part.kind === 'null' && part.left.kind === 'column' && part.left.path.length === 1
            ? [part.left.path[0]!]
            : [],
        ),
      );
      return {
        ...where,
        parts: where.parts.map((part) =>
          visitNegations(part, (column, each) => (empty.has(column) ? null : change(column, each))),
        ),
      };
    }
    case 'all':
      return { ...where, parts: where.parts.map((part) => visitNegations(part, change)) };
    case 'compare': {
      const column = where.comparison === '<>' ? ownColumn([where.left, where.right]) : undefined;
      return (column !== undefined && change(column, where)) || where;
    }
    case 'not': {
      const { part } = where;
      const column =
        part.kind === 'compare'
          ? ownColumn([part.left, part.right])
          : part.kind === 'in' || part.kind === 'between' || part.kind === 'like'
            ? ownColumn([part.left])
            : undefined;
      return (column !== undefined && change(column, where)) || where;
    }
    default:
      return where;
  }
}

/** What falls out of a rule without being named by it. */
export function findEmptyFaults(granted: readonly Granted[], facts: DataFacts): Finding[] {
  const rowsOf = (table: string, column: string) =>
    facts.empties.find((each) => each.table === table && each.column === column)?.rows ?? 0;
  const empties = granted.flatMap(({ grant, scope, role, table, place }) => {
    const where = grant.see?.where;
    if (typeof where !== 'object' || checkCondition(where, scope).length > 0) return [];
    return negatedColumns(where, table)
      .filter((column) => rowsOf(table.name, column) > 0)
      .map((column): Finding => {
        const rows = rowsOf(table.name, column);
        return {
          id: `empty/${table.name}/${role.id}/${column}`,
          kind: 'empty values fall out',
          severity: 'broken',
          place: { ...place, column },
          title:
            `${role.name} doesn't see ${rows === 1 ? 'the row' : `the ${rows.toLocaleString('en')} rows`} of ` +
            `${table.name} in which ${column} is empty`,
          why:
            `Of an empty value neither "is" nor "is not" is true, so "${describeCondition(where)}" leaves those ` +
            'rows out. Say "or is empty" where they are meant.',
        };
      });
  });
  const nobody = facts.nobody.flatMap(({ table, role: id, people }) =>
    granted
      .filter((each) => each.table.name === table && each.role.id === id)
      .map(({ role, place }): Finding => ({
        id: `nothing/${table}/${id}`,
        kind: 'nobody gets a row',
        severity: 'broken',
        place,
        title:
          `The filter of ${role.name} on ${table} lets no row through for ` +
          `${people === 1 ? 'its only member' : `any of its ${people.toLocaleString('en')} members`}`,
        why:
          'On the data as it is now everyone in this role sees an empty list. It may compare with the wrong ' +
          'thing, or the data is still to come.',
      })),
  );
  const keys = facts.brokenKeys.map((table): Finding => ({
    id: `key/${table}`,
    kind: 'key does not tell apart',
    severity: 'broken',
    place: { stage: 'data', table },
    title: `The key that was given to ${table} is empty or the same in several of its records`,
    why:
      'An address may then open another record than was meant, of those that the person sees. Choose other ' +
      'columns, or take the key off.',
  }));
  return [...empties, ...nobody, ...keys];
}
