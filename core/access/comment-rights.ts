import { factsUsed } from '../condition/analyse';
import type { ConditionScope } from '../condition/scope';
import { existsOf, operandsOf, unshifted, type Condition } from '../condition/tree';
import { circles, type Circle, type CommentAct, type CommentsGrant } from '../definition/comments';
import { printPath } from '../definition/path';
import type { Rows } from './rows';

/** What a lens lets be done with comments on the records that it has. */
export interface CommentLens {
  acts: Readonly<Record<Circle, ReadonlySet<CommentAct> | null>>;
  /**
   * What makes a record theirs: the columns that its rules hold against facts of the member. Comments that were written
   * while other values stood there are not read. Empty where all are; null where it can't be told of a record, so that
   * only those are read that they wrote themselves.
   */
  theirsBy: readonly string[][] | null;
}

/** A lens as far as comments are about it. */
type Commented = { comments: CommentLens | null };

/** What made a record somebody's, by path in text form: a text for each value, the same for the same. */
export type Standing = Readonly<Record<string, string>>;

/** A comment as far as rights are about it. */
export interface WrittenComment {
  circle: Circle;
  /** Whether whoever asks wrote it. */
  mine: boolean;
  /** What stood in the record when it was written. */
  standing: Standing;
}

/** What a person may do with comments on one record. */
export interface CommentRights {
  reads(comment: WrittenComment): boolean;
  deletes(comment: WrittenComment): boolean;
  /** The circles that they may write to, each with the role by which they do. */
  writes: readonly { circle: Circle; role: string }[];
  /** Whether comments of a circle are read at all. */
  opens(circle: Circle): boolean;
}

/** What a grant of comments comes to for a lens with these rows; null where nothing. */
export function commentLens(
  grant: CommentsGrant | undefined,
  rows: Rows,
  scope: Pick<ConditionScope, 'catalogue' | 'table'>,
): CommentLens | null {
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

/** All columns that make records of a table somebody's, whoever it be: what is kept with a comment. */
export function standingPaths(lenses: readonly (CommentLens | null)[]): string[][] {
  const paths = lenses.flatMap((lens) => lens?.theirsBy ?? []);
  return [...new Map(paths.map((path) => [printPath(path), path])).values()];
}

/** What follows for a record that these lenses have, in which `now` stands. */
export function commentRightsOf(
  { lenses }: { lenses: readonly (Commented & { role: string })[] },
  seen: readonly boolean[],
  now: Standing,
): CommentRights {
  const open = lenses.flatMap((lens, i) => (seen[i] && lens.comments ? [{ ...lens.comments, role: lens.role }] : []));
  const isTheirs = ({ theirsBy: paths }: CommentLens, { mine, standing }: WrittenComment) =>
    mine ||
    (paths !== null &&
      paths.every((path) => {
        const name = printPath(path);
        return Object.hasOwn(standing, name) && Object.hasOwn(now, name) && standing[name] === now[name];
      }));
  const reading = (comment: WrittenComment) =>
    open.filter((lens) => lens.acts[comment.circle] !== null && isTheirs(lens, comment));
  return {
    reads: (comment) => reading(comment).length > 0,
    deletes: (comment) =>
      reading(comment).some(({ acts }) => {
        const may = acts[comment.circle]!;
        return may.has('delete any') || (comment.mine && may.has('delete own'));
      }),
    writes: circles.flatMap((circle) => {
      const by = open.find(({ acts }) => acts[circle]?.has('write'));
      return by ? [{ circle, role: by.role }] : [];
    }),
    opens: (circle) => open.some(({ acts }) => acts[circle] !== null),
  };
}

const said = { forAll: 'for all', amongUs: 'among us' } as const;

/** A right on comments in words. */
export type SaidOfComments = `${'read' | 'read earlier' | CommentAct} ${(typeof said)[Circle]}`;

/** What lenses let be done with comments, each right once, for reports. */
export function sayComments(lenses: readonly Commented[]): SaidOfComments[] {
  const rights = lenses.flatMap(({ comments }) =>
    circles.flatMap((circle): SaidOfComments[] => {
      const acts = comments?.acts[circle];
      if (!acts) return [];
      const earlier = comments.theirsBy?.length === 0 ? (['read earlier'] as const) : [];
      return (['read', ...earlier, ...acts] as const).map((act): SaidOfComments => `${act} ${said[circle]}`);
    }),
  );
  return [...new Set(rights)];
}
