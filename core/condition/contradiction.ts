import { findColumn, isPathProblem, resolveMany } from '../table/catalogue';
import type { Value } from '../table/value';
import type { ConditionScope } from './scope';
import type { ComparedAs } from '../sql/compared-as';
import type { Atom } from './formula';
import { compareValues } from './operand-value';
import { printOperand } from './print';
import type { Condition, Operand } from './tree';

/** The analysis itself, handed in, because what stands inside EXISTS is analysed the same way. */
export interface Analysis {
  implies(one: Condition | null, other: Condition | null, scope: ConditionScope): boolean;
  isNever(condition: Condition, scope: ConditionScope): boolean;
}

/** Whether it is certain that not all of the atoms can be so at once. */
export function contradicts(atoms: Atom[], scope: ConditionScope, analysis: Analysis): boolean {
  return (
    nullsContradict(atoms, scope) ||
    opaqueContradict(atoms) ||
    existsContradict(atoms, scope, analysis) ||
    ordersContradict(atoms)
  );
}

function nullsContradict(atoms: Atom[], scope: ConditionScope): boolean {
  const filled = new Set<string>();
  for (const atom of atoms) {
    if (atom.kind === 'compare') filled.add(printOperand(atom.left)).add(printOperand(atom.right));
    else if (atom.kind === 'opaque') for (const operand of atom.operands) filled.add(printOperand(operand));
    else if (atom.kind === 'null' && !atom.is) filled.add(printOperand(atom.operand));
  }
  return atoms.some(
    (atom) =>
      atom.kind === 'null' &&
      (atom.is ? filled.has(printOperand(atom.operand)) || isAlwaysFilled(atom.operand, scope) : false),
  );
}

function isAlwaysFilled(operand: Operand, scope: ConditionScope): boolean {
  switch (operand.kind) {
    case 'text':
    case 'number':
    case 'boolean':
    case 'clock':
      return true;
    case 'column':
      return operand.path.length === 1 && findColumn(scope.table, operand.path[0]!)?.nullable === false;
    case 'member':
    case 'record':
    case 'shifted':
      return false;
  }
}

function opaqueContradict(atoms: Atom[]): boolean {
  const known = new Map<string, boolean>();
  for (const atom of atoms) {
    if (atom.kind !== 'opaque') continue;
    if (known.has(atom.text) && known.get(atom.text) !== atom.holds) return true;
    known.set(atom.text, atom.holds);
  }
  return false;
}

/** There is a record with A although none can have it, or although there is none with B and whatever has A has B. */
function existsContradict(atoms: Atom[], scope: ConditionScope, analysis: Analysis): boolean {
  const some = atoms.filter((atom) => atom.kind === 'exists' && atom.holds) as Extract<Atom, { kind: 'exists' }>[];
  const none = atoms.filter((atom) => atom.kind === 'exists' && !atom.holds) as Extract<Atom, { kind: 'exists' }>[];
  const sameRelation = (a: { condition: { relation: string[] } }, b: { condition: { relation: string[] } }) =>
    JSON.stringify(a.condition.relation) === JSON.stringify(b.condition.relation);
  return some.some((one) => {
    const found = resolveMany(scope.catalogue, scope.table, one.condition.relation);
    if (isPathProblem(found)) return false;
    const related = { ...scope, table: found.table };
    return (
      (one.condition.where !== null && analysis.isNever(one.condition.where, related)) ||
      none.some(
        (other) => sameRelation(one, other) && analysis.implies(one.condition.where, other.condition.where, related),
      )
    );
  });
}

/** How one value stands to another: not known, not after it, or before it. */
const [unknown, notAfter, before] = [0, 1, 2];
const mostValues = 40;

/** Looks for a value that would have to lie before itself, or be the same as one that it is not. */
function ordersContradict(atoms: Atom[]): boolean {
  const compares = atoms.filter((atom) => atom.kind === 'compare').map(withoutDoubleNo);
  for (const kind of new Set(compares.map((atom) => atom.kindOfValue))) {
    if (
      kindContradicts(
        compares.filter((atom) => atom.kindOfValue === kind),
        kind,
      )
    )
      return true;
  }
  return false;
}

type Compare = Extract<Atom, { kind: 'compare' }>;

/** Of yes and no, not the one means the other. */
function withoutDoubleNo(atom: Compare): Compare {
  if (atom.kindOfValue !== 'truth' || atom.comparison !== '<>') return atom;
  if (atom.right.kind === 'boolean')
    return { ...atom, comparison: '=', right: { ...atom.right, value: !atom.right.value } };
  return atom.left.kind === 'boolean'
    ? { ...atom, comparison: '=', left: { ...atom.left, value: !atom.left.value } }
    : atom;
}

function kindContradicts(atoms: Compare[], kind: string): boolean {
  const operands = [
    ...new Map(
      atoms.flatMap((atom) => [atom.left, atom.right]).map((operand) => [printOperand(operand), operand]),
    ).values(),
  ];
  if (operands.length > mostValues) return false;
  const place = new Map(operands.map((operand, i) => [printOperand(operand), i]));
  const order = operands.map((a) => operands.map((b) => knownOrder(a, b, kind)));
  const add = (a: number, b: number, how: number) => {
    order[a]![b] = Math.max(order[a]![b]!, how);
  };
  const differ: [number, number][] = [];
  for (const { left, comparison, right } of atoms) {
    const [a, b] = [place.get(printOperand(left))!, place.get(printOperand(right))!];
    if (comparison === '<>') differ.push([a, b]);
    else if (comparison === '=') {
      add(a, b, notAfter);
      add(b, a, notAfter);
    } else if (comparison === '<' || comparison === '<=') add(a, b, comparison === '<' ? before : notAfter);
    else add(b, a, comparison === '>' ? before : notAfter);
  }
  // Floyd (1962) and Warshall (1962): whatever follows through a third value.
  for (let via = 0; via < operands.length; via++) {
    for (let a = 0; a < operands.length; a++) {
      for (let b = 0; b < operands.length; b++) {
        const [one, other] = [order[a]![via]!, order[via]![b]!];
        if (one !== unknown && other !== unknown) add(a, b, Math.max(one, other));
      }
    }
  }
  return (
    operands.some((_, i) => order[i]![i] === before) ||
    differ.some(([a, b]) => a === b || (order[a]![b] !== unknown && order[b]![a] !== unknown))
  );
}

/** What is known of two operands without any row: constants, and days reckoned from the same clock. */
function knownOrder(a: Operand, b: Operand, kind: string): number {
  const [one, other] = [literal(a), literal(b)];
  if (one !== null && other !== null) {
    const [as, collation] = kind.startsWith('text ')
      ? ['text' as const, kind.slice(5)]
      : [kind as ComparedAs, 'utf8mb4_bin'];
    const sign = compareValues(as, one, other, collation);
    return sign < 0 ? before : sign === 0 ? notAfter : unknown;
  }
  const [from, to] = [daysFromToday(a), daysFromToday(b)];
  if (from === null || to === null) return unknown;
  return from < to ? before : from === to ? notAfter : unknown;
}

function literal(operand: Operand): Value {
  if (operand.kind === 'text') return operand.text;
  if (operand.kind === 'number') return operand.digits;
  return operand.kind === 'boolean' ? operand.value : null;
}

function daysFromToday(operand: Operand): number | null {
  if (operand.kind === 'clock') return operand.what === 'today' ? 0 : null;
  if (operand.kind !== 'shifted' || operand.of.kind !== 'clock' || operand.of.what !== 'today') return null;
  return operand.unit === 'DAY' ? operand.count : operand.unit === 'WEEK' ? 7 * operand.count : null;
}
