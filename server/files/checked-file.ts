import { fileTypeFromBuffer } from 'file-type';
import type { Sharp, SharpOptions } from 'sharp';
import { Problem } from '../../core/refusals/problem';

/** A file of a person as it is kept: known by its bytes, pictures without what cameras write into them. */
export interface CheckedFile {
  name: string;
  type: string;
  bytes: Buffer;
  /** A picture in small, as WebP. */
  small: Buffer | null;
}

type Written = (picture: Sharp) => Sharp;

/** Pictures that are taken, each with the ends that its name may have and how it is written anew. */
const pictures: Record<string, { ends: string[]; written: Written }> = {
  'image/png': { ends: ['png'], written: (picture) => picture.png() },
  'image/jpeg': { ends: ['jpg', 'jpeg'], written: (picture) => picture.jpeg({ quality: 90 }) },
  'image/webp': { ends: ['webp'], written: (picture) => picture.webp({ quality: 90 }) },
  'image/gif': { ends: ['gif'], written: (picture) => picture.gif() },
};

const office = 'application/vnd.openxmlformats-officedocument';

/** Documents that are taken, by the type that their bytes tell, with the ends that their names may have. */
const documents: Record<string, string[]> = {
  'application/pdf': ['pdf'],
  [`${office}.wordprocessingml.document`]: ['docx'],
  [`${office}.spreadsheetml.sheet`]: ['xlsx'],
  [`${office}.presentationml.presentation`]: ['pptx'],
  'application/vnd.oasis.opendocument.text': ['odt'],
  'application/vnd.oasis.opendocument.spreadsheet': ['ods'],
  'application/vnd.oasis.opendocument.presentation': ['odp'],
};

/** Plain text tells no type by its bytes. */
const texts = ['txt', 'csv', 'tsv', 'md', 'json'];

/** So many dots a picture may have, all its frames together: 50 megapixels. */
const mostDots = 50_000_000;

const smallEdge = 480;

const refused = (sentence: string): Problem => new Problem(422, 'file-refused', sentence);

/**
 * Looks at a file by its bytes, never by its name alone: what it is, whether its name says the same, whether a picture
 * can be read at all. Pictures are written anew, upright, which leaves out the place and the camera. Throws a problem
 * that says what to send instead.
 */
export async function checkedFile(given: string, bytes: Buffer): Promise<CheckedFile> {
  const name = plainName(given);
  if (bytes.length === 0) throw refused(`${name} is empty.`);
  const end = /\.([^.]+)$/.exec(name)?.[1]?.toLowerCase() ?? '';
  const found = await fileTypeFromBuffer(bytes);
  if (found === undefined && texts.includes(end) && isText(bytes))
    return { name, type: 'text/plain', bytes, small: null };
  if (found?.mime === 'image/heic' || found?.mime === 'image/heif')
    throw refused(`${name} is a HEIC picture, which can't be shown everywhere. Send it as JPEG.`);
  const type = found?.mime ?? '';
  const ends = Object.hasOwn(pictures, type)
    ? pictures[type]!.ends
    : Object.hasOwn(documents, type)
      ? documents[type]!
      : null;
  if (!ends)
    throw refused(
      `${name} is not of a kind that is taken. Send pictures (PNG, JPEG, WebP, GIF), PDF, documents, sheets and ` +
        'slides without macros (DOCX, XLSX, PPTX, ODT, ODS, ODP), or plain text.',
    );
  if (!ends.includes(end))
    throw refused(`${name} holds ${found!.ext.toUpperCase()}, and its name says something else. Name it as it is.`);
  if (!Object.hasOwn(pictures, type)) return { name, type, bytes, small: null };
  return inTurn(async () => ({ name, type, ...(await writtenAnew(name, bytes, pictures[type]!.written)) }));
}

/** The last part of a path, without what could hide or turn its letters round. */
function plainName(given: string): string {
  const last = given.split(/[/\\]/).at(-1)!;
  const plain = last.replaceAll(/[\p{Cc}\p{Cf}]/gu, '').trim();
  const dot = plain.lastIndexOf('.');
  return (dot > 0 ? plain.slice(0, dot).slice(0, 150) + plain.slice(dot).slice(0, 20) : plain.slice(0, 150)) || 'file';
}

/** Text in any encoding that writes ASCII as it is: no sign of a program or of packed data. */
const isText = (bytes: Buffer): boolean => !/[^\t\n\f\r -\xff]/.test(bytes.toString('latin1'));

async function writtenAnew(name: string, bytes: Buffer, written: Written): Promise<{ bytes: Buffer; small: Buffer }> {
  // Read with the first picture, not at each start.
  const { default: sharp } = await import('sharp');
  const opened = (options: SharpOptions = {}) =>
    sharp(bytes, { limitInputPixels: mostDots, failOn: 'error', ...options });
  let dots = 0;
  try {
    // The height is that of all frames, one below the other.
    const { width, height } = await opened({ animated: true, limitInputPixels: false }).metadata();
    dots = width * height;
    if (dots <= mostDots)
      return {
        // What stands beside the dots (EXIF, XMP, IPTC) is not written unless it is asked for.
        bytes: await written(opened({ animated: true }).autoOrient()).toBuffer(),
        small: await opened()
          .autoOrient()
          .resize({ width: smallEdge, height: smallEdge, fit: 'inside', withoutEnlargement: true })
          .webp({ quality: 78 })
          .toBuffer(),
      };
  } catch {
    throw refused(`${name} can't be read as a picture; it may be damaged, or larger than 50 megapixels.`);
  }
  throw refused(
    `${name} has ${Math.round(dots / 1e6)} megapixels; ${mostDots / 1e6} are taken. Send it in a smaller size.`,
  );
}

let last: Promise<unknown> = Promise.resolve();

/** One large picture at a time lies in memory. */
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const mine = last.then(work, work);
  last = mine.catch(() => undefined);
  return mine;
}
