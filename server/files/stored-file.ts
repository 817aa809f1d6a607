import { Problem } from '../../core/refusals/problem';
import { randomBytes } from 'node:crypto';
import { Readable, type Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import { StoredFile } from '../store/models';

const pieceSize = 1 << 20;

/** A new file, not yet filled. */
export type FileFace = Pick<StoredFile, 'portalId' | 'name' | 'purpose' | 'type' | 'goneAt'> &
  Partial<Pick<StoredFile, 'facts'>>;

/** The file grew past what was allowed. */
class FileTooLarge extends Problem {
  constructor(sentence: string) {
    super(413, 'too-large', sentence);
  }
}

/**
 * Keeps what a stream of bytes brings, in pieces of a megabyte, so that no file is ever whole in memory. When the
 * stream fails, or brings more than `most` bytes, nothing is kept.
 */
export async function keepFile(
  sequelize: Sequelize,
  face: FileFace,
  bytes: AsyncIterable<Uint8Array | string> | Iterable<Uint8Array>,
  most: number,
): Promise<StoredFile> {
  const id = randomBytes(16).toString('hex');
  const file = await StoredFile.create({
    id,
    ...face,
    name: face.name.slice(0, 255),
    size: 0,
    facts: face.facts ?? '{}',
  });
  try {
    let size = 0;
    let place = 0;
    let held: Buffer[] = [];
    let heldSize = 0;
    const put = async () => {
      if (heldSize === 0) return;
      await sequelize.query('INSERT INTO file_pieces (file_id, place, bytes) VALUES (?, ?, ?)', {
        replacements: [id, place++, Buffer.concat(held)],
        type: QueryTypes.INSERT,
      });
      held = [];
      heldSize = 0;
    };
    for await (const part of bytes) {
      const buffer = Buffer.from(part as Uint8Array);
      size += buffer.length;
      if (size > most)
        throw new FileTooLarge(`The file is larger than ${Math.floor(most / 1024 / 1024)} MB. Divide it.`);
      held.push(buffer);
      heldSize += buffer.length;
      if (heldSize >= pieceSize) await put();
    }
    await put();
    await file.update({ size });
    return file;
  } catch (error) {
    await StoredFile.destroy({ where: { id } });
    throw error;
  }
}

/**
 * So many bytes of a portal's files may lie here that will be forgotten: what was brought to be imported, and what was
 * exported.
 */
const mostPassing = 8 * 1024 ** 3;

/** Refuses to take in more where a portal's passing files are too many already. */
export async function refuseFull(portalId: number): Promise<void> {
  const size = Number((await StoredFile.sum('size', { where: { portalId, goneAt: { [Op.ne]: null } } })) ?? 0);
  if (size >= mostPassing)
    throw new FileTooLarge(
      `This portal has ${Math.round(size / 1024 ** 3)} GB of files that were brought or exported in the last ` +
        'days. They are forgotten a day after; bring this one then.',
    );
}

/** The bytes of a kept file, piece by piece. */
export async function* fileBytes(sequelize: Sequelize, id: string): AsyncGenerator<Buffer> {
  for (let place = 0; ; place++) {
    const [row] = await sequelize.query<{ bytes: Buffer }>(
      'SELECT bytes FROM file_pieces WHERE file_id = ? AND place = ?',
      { replacements: [id, place], type: QueryTypes.SELECT },
    );
    if (!row) return;
    yield row.bytes;
  }
}

/** Sends the bytes of a kept file, piece by piece. */
export const sendBytes = (sequelize: Sequelize, id: string, to: Writable): Promise<void> =>
  pipeline(Readable.from(fileBytes(sequelize, id)), to);

/** Before the first piece: where a picture in small lies, which goes with its file. */
const placeOfSmall = -1;

/** Keeps a picture of a file in small. */
export async function keepSmall(sequelize: Sequelize, id: string, bytes: Buffer): Promise<void> {
  await sequelize.query('INSERT INTO file_pieces (file_id, place, bytes) VALUES (?, ?, ?)', {
    replacements: [id, placeOfSmall, bytes],
    type: QueryTypes.INSERT,
  });
}

/** The picture of a file in small; null where there is none. */
export async function smallBytes(sequelize: Sequelize, id: string): Promise<Buffer | null> {
  const [row] = await sequelize.query<{ bytes: Buffer }>(
    'SELECT bytes FROM file_pieces WHERE file_id = ? AND place = ?',
    { replacements: [id, placeOfSmall], type: QueryTypes.SELECT },
  );
  return row?.bytes ?? null;
}

/** The purpose of files that hang on records. */
export const onRecords = 'record';

/** Forgets files that hung on records, and hang on none any more. */
export async function forgetLooseFiles(sequelize: Sequelize): Promise<void> {
  const hanging = sequelize.literal('(SELECT file_id FROM comments WHERE file_id IS NOT NULL)');
  await StoredFile.destroy({ where: { purpose: onRecords, goneAt: null, id: { [Op.notIn]: hanging } } });
}

/** Forgets the files whose time has come. */
export async function forgetOldFiles(now: Date): Promise<void> {
  await StoredFile.destroy({ where: { goneAt: { [Op.lt]: now } } });
}
