import type { Request } from 'express';
import { Op, type Sequelize } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import type { Circle } from '../../core/definition/hung';
import { checkedFile } from '../files/checked-file';
import { receiveFile } from '../files/receive';
import { keepFile, keepSmall, onRecords } from '../files/stored-file';
import { NotFound } from '../gate/gate';
import { Comment } from '../store/comment-models';
import { StoredFile } from '../store/models';
import type { PortalVisit } from '../visits/member-visit';
import { discussedFromNow, discussedRecord } from './discussed-records';
import { asHung, hungOn, mayNot, toldOf, writesOf, type HungOn, type HungTold } from './hung-on';

/** Files that hang on a record: under the same rights, circles and standing as what is said of it. */

const purpose = onRecords;
const largest = 25 * 1024 * 1024;
const mostOfOne = 100;
/** So many bytes one member may have hung on the records of a portal. */
const mostOfMember = 2 * 1024 ** 3;

/** A file as somebody gets it. */
export interface AttachmentTold extends HungTold {
  /** What it is called; null for whoever is kept from personal data. */
  file: string | null;
  /** A media type, or '' for whoever is kept from personal data. */
  type: string;
  size: number;
  /** Whether there is a picture of it in small. */
  hasSmall: boolean;
}

/** The files of a record, as far as somebody may open them, the newest first. */
export interface AttachmentsTold {
  files: AttachmentTold[];
  writes: Circle[];
}

interface Opened {
  comment: Comment;
  file: StoredFile;
}

async function openedOn(asked: PortalVisit, tableName: string, id: string): Promise<[HungOn, Opened[]]> {
  const on = await hungOn(asked, 'files', tableName, id);
  const record = await discussedRecord(on, on.found.keys);
  const comments = record
    ? await Comment.findAll({ where: { recordId: record.id, fileId: { [Op.ne]: null } }, order: [['id', 'DESC']] })
    : [];
  const readable = comments.filter((comment) => on.found.rights.reads(asHung(comment, on.visit)));
  const files = new Map(
    (await StoredFile.findAll({ where: { id: readable.map(({ fileId }) => fileId!), portalId: asked.portalId } })).map(
      (file) => [file.id, file],
    ),
  );
  const opened = readable.flatMap((comment) => {
    const file = files.get(comment.fileId!);
    return file ? [{ comment, file }] : [];
  });
  return [on, opened];
}

const hasSmall = ({ facts }: StoredFile): boolean => (JSON.parse(facts) as { small?: true }).small === true;

/** The files of a record that this person may open. */
export async function attachmentsOf(asked: PortalVisit, tableName: string, id: string): Promise<AttachmentsTold> {
  const [on, opened] = await openedOn(asked, tableName, id);
  const told = await toldOf(
    on,
    opened.map(({ comment }) => comment),
  );
  const { withoutSight = false } = on.visit.person;
  return {
    files: told.map((each, i) => {
      const { file } = opened[i]!;
      const known = withoutSight
        ? { file: null, type: '', hasSmall: false }
        : { file: file.name, type: file.type, hasSmall: hasSmall(file) };
      return { ...each, ...known, size: file.size };
    }),
    writes: writesOf(on),
  };
}

/** One of a record's files; NotFound where this person may not open it. */
export async function attachmentOf(
  asked: PortalVisit,
  tableName: string,
  id: string,
  attachment: number,
): Promise<StoredFile> {
  const [{ visit }, opened] = await openedOn(asked, tableName, id);
  const found = opened.find(({ comment }) => comment.id === attachment);
  if (!found || visit.person.withoutSight) throw new NotFound('file');
  return found.file;
}

/** The newest picture among a record's files that this person may open; null where there is none. */
export async function pictureOf(asked: PortalVisit, tableName: string, id: string): Promise<StoredFile | null> {
  const [{ visit }, opened] = await openedOn(asked, tableName, id);
  return visit.person.withoutSight ? null : (opened.find(({ file }) => hasSmall(file))?.file ?? null);
}

/**
 * Hangs a file on a record that a request brings; nothing of it is kept where it, or the right to, is wanting. It may
 * take long to arrive: what counts is whether they may then, as `again` finds them.
 */
export async function attach(
  sequelize: Sequelize,
  asked: PortalVisit,
  tableName: string,
  id: string,
  circle: Circle,
  req: Request,
  again: () => Promise<{ visit: PortalVisit }>,
): Promise<number> {
  await wayTo(asked, tableName, id, circle);
  return receiveFile(req, async (name, parts) => {
    const bytes = await whole(parts);
    const { visit } = await again();
    return attachSent(sequelize, visit, tableName, id, circle, { name, bytes });
  });
}

/** As `attach`, of a file that is here already. */
export const attachSent = async (
  sequelize: Sequelize,
  asked: PortalVisit,
  tableName: string,
  id: string,
  circle: Circle,
  sent: { name: string; bytes: Buffer },
): Promise<number> => hang(sequelize, await wayTo(asked, tableName, id, circle), sent);

/** A record on which somebody may hang a file, for whom it is, and the role by which they may. */
interface Way {
  on: HungOn;
  circle: Circle;
  role: string;
}

async function wayTo(asked: PortalVisit, tableName: string, id: string, circle: Circle): Promise<Way> {
  const on = await hungOn(asked, 'files', tableName, id);
  const { id: memberId } = on.visit.person;
  const way = on.found.rights.writes.find((each) => each.circle === circle);
  if (!way || memberId === null) throw mayNot('add files here');
  await refuseTooMuch(on, memberId);
  return { on, ...way };
}

async function hang(
  sequelize: Sequelize,
  { on, circle, role }: Way,
  sent: { name: string; bytes: Buffer },
): Promise<number> {
  const { visit, found, portalId } = on;
  const { name, type, bytes, small } = await checkedFile(sent.name, sent.bytes);
  const facts = JSON.stringify(small ? { small: true } : {});
  // Forgotten by itself if what follows is not reached.
  const goneAt = new Date(Date.now() + 3600_000);
  const file = await keepFile(sequelize, { portalId, name, purpose, type, facts, goneAt }, [bytes], largest);
  if (small) await keepSmall(sequelize, file.id, small);
  const record = await discussedFromNow(on, found.keys);
  const made = await Comment.create({
    recordId: record.id,
    memberId: visit.person.id,
    role,
    circle,
    text: '',
    fileId: file.id,
    standing: JSON.stringify(found.standing),
    writtenAt: visit.moment,
  });
  await file.update({ goneAt: null });
  return made.id;
}

async function whole(bytes: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of bytes) {
    size += part.length;
    if (size > largest)
      throw new Problem(413, 'too-large', `The file is larger than ${largest / 1024 / 1024} MB. Send a smaller one.`);
    parts.push(part);
  }
  return Buffer.concat(parts);
}

async function refuseTooMuch(on: HungOn, memberId: number): Promise<void> {
  const record = await discussedRecord(on, on.found.keys);
  const here = record ? await Comment.count({ where: { recordId: record.id, fileId: { [Op.ne]: null } } }) : 0;
  if (here >= mostOfOne)
    throw new Problem(409, 'too-many', `${mostOfOne} files are kept with one record. Take some out first.`);
  const own = await Comment.findAll({ attributes: ['fileId'], where: { memberId, fileId: { [Op.ne]: null } } });
  const size = Number((await StoredFile.sum('size', { where: { id: own.map(({ fileId }) => fileId!) } })) ?? 0);
  if (size >= mostOfMember)
    throw new Problem(409, 'too-many', 'Your files here have reached 2 GB. Take some out first.');
}

/** Takes out a file; NotFound where this person opens no such file on the record. */
export async function takeOutAttachment(
  asked: PortalVisit,
  tableName: string,
  id: string,
  attachment: number,
): Promise<void> {
  const [{ visit, found }, opened] = await openedOn(asked, tableName, id);
  const one = opened.find(({ comment }) => comment.id === attachment);
  if (!one) throw new NotFound('file');
  if (!found.rights.deletes(asHung(one.comment, visit))) throw mayNot('take this file out');
  await one.file.destroy();
}
