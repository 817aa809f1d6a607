import { factsUsed } from '../condition/analyse';
import type { ConditionScope } from '../condition/scope';
import { existsOf, operandsOf, unshifted, type Condition } from '../condition/tree';
import { circles, hung, type Circle, type CommentAct, type Hung, type HungGrant } from '../definition/hung';
import { printPath } from '../definition/path';
import type { Rows } from './rows';

/** What a lens lets be done with comments, or with files, on the records that it has. */
export interface HungLens {
  acts: Readonly<Record<Circle, ReadonlySet<CommentAct> | null>>;
  /**
   * What makes a record theirs: the columns that its rules hold against facts of the member. What was hung on it
   * while other values stood there are not read. Empty where all are; null where it can't be told of a record, so that
   * only those are read that they wrote themselves.
   */
  theirsBy: readonly string[][] | null;
}

/** A lens as far as what hangs on records is about it. */
type Hanging = Readonly<Record<Hung, HungLens | null>>;

/** What made a record somebody's, by path in text form: a text for each value, the same for the same. */
export type Standing = Readonly<Record<string, string>>;

/** A comment or a file as far as rights are about it. */
export interface HungOne {
  circle: Circle;
  /** Whether whoever asks wrote it. */
  mine: boolean;
  /** What stood in the record when it was written. */
  standing: Standing;
}

/** What a person may do with comments, or with files, on one record. */
export interface HungRights {
  reads(one: HungOne): boolean;
  deletes(one: HungOne): boolean;
  /** The circles that they may write to, each with the role by which they do. */
  writes: readonly { circle: Circle; role: string }[];
  /** Whether anything of a circle is read at all. */
  opens(circle: Circle): boolean;
}

/** What a grant of comments or files comes to for a lens with these rows; null where nothing. */
export function hungLens(
  grant: HungGrant | undefined,
  rows: Rows,
  scope: Pick<ConditionScope, 'catalogue' | 'table'>,
): HungLens | null {
  if (!grant || rows === 'no row') return null;
  const acts = (circle: Circle) => (grant[circle] ? new Set(grant[circle]) : null);
  const both = { forAll: acts('forAll'), amongUs: acts('amongUs') };
  if (!both.forAll && !both.amongUs) return null;
  return { acts: both, theirsBy: grant.earlier ? [] : theirsBy(rows, scope) };
}

/** The columns that rules hold against facts of the member; null where one does so in other records. */
function theirsBy(
  rows: Exclude<Rows, 'no row'>,
  scope: Pick<ConditionScope, 'catalogue' | 'table'>,
): string[][] | null {
  const found = new Map<string, string[]>();
  for (const { where } of rows) {
    const inside = existsOf(where).some((exists) => factsUsed(exists, { ...scope, member: true }).length > 0);
    if (inside) return null;
    for (const leaf of leavesOf(where)) {
      const operands = operandsOf(leaf).map(unshifted);
      if (!operands.some(({ kind }) => kind === 'member')) continue;
      for (const operand of operands) if (operand.kind === 'column') found.set(printPath(operand.path), operand.path);
    }
  }
  return [...found.values()];
}

function leavesOf(where: Condition): Condition[] {
  if (where.kind === 'all' || where.kind === 'any') return where.parts.flatMap(leavesOf);
  return where.kind === 'not' ? leavesOf(where.part) : [where];
}

/** All columns that make records of a table somebody's, whoever it be: what is kept with what hangs on them. */
export function standingPaths(lenses: readonly Hanging[]): string[][] {
  const paths = lenses.flatMap((lens) => hung.flatMap((what) => lens[what]?.theirsBy ?? []));
  return [...new Map(paths.map((path) => [printPath(path), path])).values()];
}

/** What follows for a record that these lenses have, in which `now` stands. */
export function hungRightsOf(
  what: Hung,
  { lenses }: { lenses: readonly (Hanging & { role: string })[] },
  seen: readonly boolean[],
  now: Standing,
): HungRights {
  const open = lenses.flatMap((lens, i) => {
    const own = seen[i] ? lens[what] : null;
    return own ? [{ ...own, role: lens.role }] : [];
  });
  const isTheirs = ({ theirsBy: paths }: HungLens, { mine, standing }: HungOne) =>
    mine ||
    (paths !== null &&
      paths.every((path) => {
        const name = printPath(path);
        return Object.hasOwn(standing, name) && Object.hasOwn(now, name) && standing[name] === now[name];
      }));
  const reading = (one: HungOne) => open.filter((lens) => lens.acts[one.circle] !== null && isTheirs(lens, one));
  return {
    reads: (one) => reading(one).length > 0,
    deletes: (one) =>
      reading(one).some(({ acts }) => {
        const may = acts[one.circle]!;
        return may.has('delete any') || (one.mine && may.has('delete own'));
      }),
    writes: circles.flatMap((circle) => {
      const by = open.find(({ acts }) => acts[circle]?.has('write'));
      return by ? [{ circle, role: by.role }] : [];
    }),
    opens: (circle) => open.some(({ acts }) => acts[circle] !== null),
  };
}

const said = { forAll: 'for all', amongUs: 'among us' } as const;

/** A right on what hangs on records in words. */
export type SaidOfHung = `${'read' | 'read earlier' | CommentAct} ${(typeof said)[Circle]}`;

/** What lenses let be done with comments or files, each right once, for reports. */
export function sayHung(what: Hung, lenses: readonly Hanging[]): SaidOfHung[] {
  const rights = lenses.flatMap(({ [what]: own }) =>
    circles.flatMap((circle): SaidOfHung[] => {
      const acts = own?.acts[circle];
      if (!acts) return [];
      const earlier = own.theirsBy?.length === 0 ? (['read earlier'] as const) : [];
      return (['read', ...earlier, ...acts] as const).map((act): SaidOfHung => `${act} ${said[circle]}`);
    }),
  );
  return [...new Set(rights)];
}
