import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { Circle } from '../../core/definition/hung';
import { NotFound } from '../gate/gate';
import { Comment, type DiscussedRecord } from '../store/comment-models';
import type { PortalVisit } from '../visits/member-visit';
import { discussedFromNow, discussedRecord } from './discussed-records';
import { doubtsOf, readDoubt, type Doubt, type DoubtTold } from './doubts';
import { asHung, hungOn, mayNot, toldOf, writesOf, type HungTold } from './hung-on';

const mostOfOne = 2000;

/** So many are told at once. */
const toldAtOnce = 50;

/** A comment as somebody gets it. */
export interface CommentTold extends HungTold {
  /** Null for whoever is kept from personal data. */
  text: string | null;
  /** What it says to be wrong, where it does and this person is shown that. */
  wrong?: DoubtTold;
}

/** What was said of a record, as far as somebody may read it. */
export interface Talk {
  /** From the oldest to the newest. */
  comments: CommentTold[];
  /** How many there are before them. */
  earlier: number;
  writes: Circle[];
}

/** What was said of a record: the newest that this person reads, or those before one. */
export async function talkOf(asked: PortalVisit, tableName: string, id: string, before: number | null): Promise<Talk> {
  const spoken = await hungOn(asked, 'comments', tableName, id);
  const { visit, found } = spoken;
  const record = await discussedRecord(spoken, found.keys);
  const all = record ? await commentsOn(record, before) : [];
  const open = all.filter((comment) => found.rights.reads(asHung(comment, visit)));
  // That a value is wrong is read by those who are shown the value.
  const doubts = await doubtsOf(visit, tableName, id, open);
  const readable = open.filter((comment) => asHung(comment, visit).mine || !doubts.kept.has(comment.id));
  const shown = readable.slice(-toldAtOnce);
  const told = await toldOf(spoken, shown);
  const blind = visit.person.withoutSight === true;
  return {
    comments: told.map((each, i) => {
      const wrong = blind ? undefined : doubts.told.get(each.id);
      return { ...each, text: blind ? null : shown[i]!.text, ...(wrong ? { wrong } : {}) };
    }),
    earlier: readable.length - shown.length,
    writes: writesOf(spoken),
  };
}

const commentsOn = ({ id }: DiscussedRecord, before: number | null): Promise<Comment[]> =>
  Comment.findAll({
    where: { recordId: id, fileId: null, ...(before === null ? {} : { id: { [Op.lt]: before } }) },
    order: [['id', 'ASC']],
    limit: mostOfOne,
  });

/** Keeps what somebody says of a record; NotFound where they may not say it. */
export async function say(
  asked: PortalVisit,
  tableName: string,
  id: string,
  { text, circle, wrong }: { text: string; circle: Circle; wrong?: Doubt },
): Promise<number> {
  const spoken = await hungOn(asked, 'comments', tableName, id);
  const { found, visit } = spoken;
  const way = found.rights.writes.find((each) => each.circle === circle);
  if (!way || visit.person.id === null) throw mayNot('say anything here');
  const doubted = wrong ? await readDoubt(visit, tableName, id, wrong, text) : {};
  const record = await discussedFromNow(spoken, found.keys);
  if ((await Comment.count({ where: { recordId: record.id, fileId: null } })) >= mostOfOne)
    throw new Problem(409, 'too-many', `${mostOfOne} comments are kept of one record. Take some out first.`);
  const made = await Comment.create({
    recordId: record.id,
    memberId: visit.person.id,
    role: way.role,
    circle,
    text: text.trim().replaceAll(/\r\n?/g, '\n'),
    standing: JSON.stringify(found.standing),
    writtenAt: visit.moment,
    ...doubted,
  });
  return made.id;
}

/** Takes out a comment; NotFound where this person reads no such comment on the record. */
export async function takeBackSaid(asked: PortalVisit, tableName: string, id: string, comment: number): Promise<void> {
  const spoken = await hungOn(asked, 'comments', tableName, id);
  const { found, visit } = spoken;
  const record = await discussedRecord(spoken, found.keys);
  const said = record && (await Comment.findOne({ where: { recordId: record.id, id: comment, fileId: null } }));
  if (!said || !found.rights.reads(asHung(said, visit))) throw new NotFound('comment');
  const doubts = await doubtsOf(visit, tableName, id, [said]);
  if (doubts.kept.has(said.id) && !asHung(said, visit).mine) throw new NotFound('comment');
  if (!found.rights.deletes(asHung(said, visit))) throw mayNot('take this comment out');
  await said.destroy();
}
