import { checkCondition } from '../condition/check';
import { evaluate } from '../condition/evaluate';
import type { ConditionContext } from '../condition/operand-value';
import type { RecordReader } from '../condition/prepare';
import { existsOf, pathsOf } from '../condition/tree';
import type { PortalDefinition } from '../definition/definition';
import { findTable, type Catalogue, type Column, type Relation, type Table } from '../table/catalogue';
import type { Row } from '../table/value';
import type { Person } from './person';
import { rightsOf } from './rights';
import type { Rows } from './rows';
import { viewOf } from './view';

/**
 * The facts that people may compare with in filters of their own, by their parts: their address, and what they see
 * whole of their own record of a roster. Others would be told by what such a filter lets through. What can't be known
 * of that record from itself alone, where a rule asks related records, is taken as not seen.
 */
export function ownFacts(
  definition: PortalDefinition,
  catalogue: Catalogue,
  person: Person,
  context: ConditionContext,
): string[][] {
  if (person.kind !== 'member') return [];
  const address = person.email === null || person.withoutSight ? [] : [['email']];
  return Object.entries(person.rows).reduce((facts, [name, row]) => {
    const table = findTable(catalogue, name);
    if (!table) return facts;
    const view = viewOf(definition, catalogue, table, person);
    const seen = view.lenses.map(({ rows }) => holdsOfItself(rows, catalogue, table, row, context));
    const rights = rightsOf(view, { seen });
    const shown = table.columns.filter((column) => rights.cell(column.name).level === 'shown');
    return [...facts, ...shown.map((column) => [name, column.name])];
  }, address);
}

function holdsOfItself(rows: Rows, catalogue: Catalogue, table: Table, row: Row, context: ConditionContext): boolean {
  if (rows === 'no row') return false;
  const reader: RecordReader = { value: ([column]) => row[column!] ?? null, exists: () => false };
  return rows.every(({ origin, where }) => {
    const scope = { catalogue, table, member: true, atSource: origin.kind === 'ceiling' };
    const isKnown =
      existsOf(where).length === 0 && pathsOf(where).every((path) => path.length === 1 && Object.hasOwn(row, path[0]!));
    return isKnown && checkCondition(where, scope).length === 0 && evaluate(where, scope, reader, context) === true;
  });
}

/** What a column may be compared with so that it is a person's own, and whether that is they themselves. */
export interface OwnValue {
  fact: string[];
  isThemselves: boolean;
}

/**
 * Of a person's own facts the one that makes records their own by this column: it leads to their own record of a
 * roster, or where that record leads (their laboratory), or holds their address. Null where there is none.
 */
export function ownValueOf(
  facts: readonly string[][],
  catalogue: Catalogue,
  column: Column,
  relation: Pick<Relation, 'table' | 'targetColumn'> | undefined,
): OwnValue | null {
  if (column.kind === 'e-mail' && facts.some(({ length }) => length === 1))
    return { fact: ['email'], isThemselves: true };
  if (!relation) return null;
  const { table, targetColumn } = relation;
  const itself = facts.find(([roster, name]) => roster === table && name === targetColumn);
  if (itself) return { fact: itself, isThemselves: true };
  const beside = facts.find(([roster, name]) =>
    findTable(catalogue, roster!)?.relations.some(
      (each) => each.column === name && each.table === table && each.targetColumn === targetColumn,
    ),
  );
  return beside ? { fact: beside, isThemselves: false } : null;
}
