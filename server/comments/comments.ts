import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { Standing, WrittenComment } from '../../core/access/comment-rights';
import { nameColumns } from '../../core/definition/name-columns';
import { printPath } from '../../core/definition/path';
import { circles, type Circle } from '../../core/definition/comments';
import { at, discussed, NotFound, read, type Discussed, type PlacedVisit } from '../gate/gate';
import { Comment, type DiscussedRecord } from '../store/comment-models';
import { Membership } from '../store/people-models';
import type { PortalVisit } from '../visits/member-visit';
import { discussedFromNow, discussedRecord, keysInUse, type DiscussedTable } from './discussed-records';

const mostOfOne = 2000;

/** So many are told at once. */
const toldAtOnce = 50;

/** A comment as somebody gets it. */
export interface CommentTold {
  id: number;
  mine: boolean;
  /** Who wrote it, where this person sees what they are called. */
  name: string | null;
  /** What they were when they wrote it. */
  role: string | null;
  circle: Circle;
  /** Null for whoever is kept from personal data. */
  text: string | null;
  writtenAt: string;
  deletable: boolean;
}

/** What was said of a record, as far as somebody may read it. */
export interface Talk {
  /** From the oldest to the newest. */
  comments: CommentTold[];
  /** How many there are before them. */
  earlier: number;
  writes: Circle[];
}

/** The record that is spoken of, by whoever may. */
interface Spoken extends DiscussedTable {
  visit: PlacedVisit;
  found: Discussed;
}

async function spokenOf(asked: PortalVisit, tableName: string, id: string): Promise<Spoken> {
  const visit = await at(asked, tableName);
  const table = { portalId: asked.portalId, tableName };
  const found = await discussed(visit.source, visit, tableName, id, await keysInUse(table));
  // The role that has the record may be another than the one that reads comments.
  if (!circles.some((circle) => found.rights.opens(circle))) throw new NotFound();
  return { ...table, visit, found };
}

const asWritten = (comment: Comment, { person }: PlacedVisit): WrittenComment => ({
  circle: comment.circle,
  mine: person.id !== null && Number(comment.memberId) === person.id,
  standing: JSON.parse(comment.standing) as Standing,
});

/** What was said of a record: the newest that this person reads, or those before one. */
export async function talkOf(asked: PortalVisit, tableName: string, id: string, before: number | null): Promise<Talk> {
  const spoken = await spokenOf(asked, tableName, id);
  const { visit, found } = spoken;
  const record = await discussedRecord(spoken, found.keys);
  const all = record ? await commentsOn(record, before) : [];
  const readable = all.filter((comment) => found.rights.reads(asWritten(comment, visit)));
  const shown = readable.slice(-toldAtOnce);
  const names = await namesOf(visit, asked.portalId, shown);
  const roleName = (role: string) => visit.definition.roles.find((each) => each.id === role)?.name ?? null;
  return {
    comments: shown.map((comment) => {
      const written = asWritten(comment, visit);
      return {
        id: comment.id,
        mine: written.mine,
        name: names.get(Number(comment.memberId)) ?? null,
        role: roleName(comment.role),
        circle: comment.circle,
        text: visit.person.withoutSight ? null : comment.text,
        writtenAt: comment.writtenAt.toISOString(),
        deletable: found.rights.deletes(written),
      };
    }),
    earlier: readable.length - shown.length,
    writes: visit.person.id === null ? [] : found.rights.writes.map(({ circle }) => circle),
  };
}

const commentsOn = ({ id }: DiscussedRecord, before: number | null): Promise<Comment[]> =>
  Comment.findAll({
    where: { recordId: id, ...(before === null ? {} : { id: { [Op.lt]: before } }) },
    order: [['id', 'ASC']],
    limit: mostOfOne,
  });

/** What writers are called, of those whose name this person sees in the roster that they stand on. */
async function namesOf(visit: PlacedVisit, portalId: number, comments: Comment[]): Promise<Map<number, string>> {
  const writers = [...new Set(comments.flatMap(({ memberId }) => (memberId === null ? [] : [Number(memberId)])))];
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

/** Keeps what somebody says of a record; NotFound where they may not say it. */
export async function say(
  asked: PortalVisit,
  tableName: string,
  id: string,
  { text, circle }: { text: string; circle: Circle },
): Promise<number> {
  const spoken = await spokenOf(asked, tableName, id);
  const { found, visit } = spoken;
  const way = found.rights.writes.find((each) => each.circle === circle);
  if (!way || visit.person.id === null) throw mayNot('say anything here');
  const record = await discussedFromNow(spoken, found.keys);
  if ((await Comment.count({ where: { recordId: record.id } })) >= mostOfOne)
    throw new Problem(409, 'too-many', `${mostOfOne} comments are kept of one record. Take some out first.`);
  const made = await Comment.create({
    recordId: record.id,
    memberId: visit.person.id,
    role: way.role,
    circle,
    text: text.trim().replaceAll(/\r\n?/g, '\n'),
    standing: JSON.stringify(found.standing),
    writtenAt: visit.moment,
  });
  return made.id;
}

const mayNot = (what: string): Problem => new Problem(403, 'not-allowed', `You may not ${what}.`);

/** Takes out a comment; NotFound where this person reads no such comment on the record. */
export async function takeBackSaid(asked: PortalVisit, tableName: string, id: string, comment: number): Promise<void> {
  const spoken = await spokenOf(asked, tableName, id);
  const { found, visit } = spoken;
  const record = await discussedRecord(spoken, found.keys);
  const said = record && (await Comment.findOne({ where: { recordId: record.id, id: comment } }));
  if (!said || !found.rights.reads(asWritten(said, visit))) throw new NotFound('comment');
  if (!found.rights.deletes(asWritten(said, visit))) throw mayNot('take this comment out');
  await said.destroy();
}
