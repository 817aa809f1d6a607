import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import type { HungOne, Standing } from '../../core/access/hung-rights';
import { nameColumns } from '../../core/definition/name-columns';
import { printPath } from '../../core/definition/path';
import { circles, type Circle, type Hung } from '../../core/definition/hung';
import { said, saidOrNull, whole, yesNo } from '../http/answers';
import { at, discussed, NotFound, read, type Discussed, type PlacedVisit } from '../gate/gate';
import type { Comment } from '../store/comment-models';
import { Membership } from '../store/people-models';
import type { PortalVisit } from '../visits/member-visit';
import { keysInUse, type DiscussedTable } from './discussed-records';

/** A record on which members hang comments and files, by whoever may open them. */
export interface HungOn extends DiscussedTable {
  visit: PlacedVisit;
  found: Discussed;
}

/** The record and what may be done with comments, or files, on it; NotFound where none of its are open. */
export async function hungOn(asked: PortalVisit, what: Hung, tableName: string, id: string): Promise<HungOn> {
  const visit = await at(asked, tableName);
  const table = { portalId: asked.portalId, tableName };
  const found = await discussed(visit.source, visit, what, tableName, id, await keysInUse(table));
  // The role that has the record may be another than the one that reads what hangs on it.
  if (!circles.some((circle) => found.rights.opens(circle))) throw new NotFound();
  return { ...table, visit, found };
}

/** A comment or a file as rights are about it. */
export const asHung = (comment: Comment, { person }: PlacedVisit): HungOne => ({
  circle: comment.circle,
  mine: person.id !== null && Number(comment.memberId) === person.id,
  standing: JSON.parse(comment.standing) as Standing,
});

/** What members are called, of those whose name this person sees in the roster that they stand on. */
export async function namesOf(
  visit: PlacedVisit,
  portalId: number,
  members: readonly number[],
): Promise<Map<number, string>> {
  const writers = [...new Set(members)];
  const rows =
    writers.length === 0 ? [] : await Membership.findAll({ where: { portalId, memberId: writers, holds: true } });
  const named = await Promise.all(
    rows.map(async ({ memberId, rosterTable, rowKey }): Promise<[number, string][]> => {
      const roster = visit.definition.rosters.find(({ table }) => table === rosterTable);
      if (!roster) return [];
      const there = await at(visit, rosterTable);
      const paths = nameColumns(roster).map((column) => [column]);
      const row = await read(there.source, there, rosterTable, rowKey, paths).catch((error: unknown) => {
        if (error instanceof NotFound) return null;
        throw error;
      });
      const parts = paths.map(printPath).flatMap((path) => {
        const value = row?.values[path];
        return value === undefined || value === null || row!.masked.includes(path) ? [] : [String(value)];
      });
      return parts.length > 0 ? [[Number(memberId), parts.join(' ')]] : [];
    }),
  );
  return new Map(named.flat());
}

/** What somebody gets of a comment or a file alike. */
export interface HungTold {
  id: number;
  mine: boolean;
  /** Who hung it there, where this person sees what they are called. */
  name: string | null;
  /** What they were when they did. */
  role: string | null;
  circle: Circle;
  writtenAt: string;
  deletable: boolean;
}

export const hungTold = {
  id: whole,
  mine: yesNo,
  name: saidOrNull,
  role: saidOrNull,
  circle: Joi.valid(...circles),
  writtenAt: said,
  deletable: yesNo,
};

/** Comments or files as this person gets them, in their order. */
export async function toldOf({ visit, found, portalId }: HungOn, comments: Comment[]): Promise<HungTold[]> {
  const members = comments.flatMap(({ memberId }) => (memberId === null ? [] : [Number(memberId)]));
  const names = await namesOf(visit, portalId, members);
  return comments.map((comment) => {
    const one = asHung(comment, visit);
    return {
      id: comment.id,
      mine: one.mine,
      name: names.get(Number(comment.memberId)) ?? null,
      role: visit.definition.roles.find(({ id }) => id === comment.role)?.name ?? null,
      circle: comment.circle,
      writtenAt: comment.writtenAt.toISOString(),
      deletable: found.rights.deletes(one),
    };
  });
}

/** The circles for which this person may hang something there. */
export const writesOf = ({ visit, found }: HungOn): Circle[] =>
  visit.person.id === null ? [] : found.rights.writes.map(({ circle }) => circle);

export const mayNot = (what: string): Problem => new Problem(403, 'not-allowed', `You may not ${what}.`);
