import { fingerprint } from '../../core/dialect/fingerprint';
import { Portal } from './models';
import { momentParameter, prepared, preparedWrite } from './prepared';
import { rightsRevisionSql } from './rights-revision';

/** What each request by a key asks and writes: as prepared statements, since many come. */

export interface FoundKey {
  id: number;
  role: string;
  name: string;
  beginning: string;
  /** Until when it holds, in UTC as the database writes moments; null where always. */
  endsAt: string | null;
  addresses: string[];
  aMinute: number;
  /** When it was last noted that it is used, in seconds; null where never. */
  usedAt: number | null;
  portalId: number;
  publishedVersion: number | null;
  rightsRevision: number;
  /** Of all this but when it was used. */
  print: string;
}

/** The question for the key with a hash, of a portal; `schema` stands before the product's tables. */
export function keyQuestion(hash: string, slug: string, schema = '') {
  return {
    compared: [
      'k.id',
      'k.role',
      'k.name',
      'k.beginning',
      'CONCAT(k.ends_at)',
      'k.addresses',
      'k.a_minute',
      'p.id',
      'p.published_version',
      rightsRevisionSql(schema),
    ],
    from: `${schema}service_keys k JOIN ${schema}portals p ON p.id = k.portal_id`,
    where: 'k.key_hash = ? AND p.slug = ?',
    values: [hash, slug],
  };
}

/** The key with a hash, of a portal; null where there is none. */
export async function findKey(hash: string, slug: string): Promise<FoundKey | null> {
  const { compared, from, where, values } = keyQuestion(hash, slug);
  const selected = [...compared, 'UNIX_TIMESTAMP(k.used_at)', fingerprint(compared)].join(', ');
  const [row] = await prepared(Portal.sequelize!, `SELECT ${selected} FROM ${from} WHERE ${where}`, values);
  if (!row) return null;
  const [id, role, name, beginning, endsAt, addresses, aMinute, portalId, publishedVersion, revision, usedAt, print] =
    row;
  return {
    id: Number(id),
    role: String(role),
    name: String(name),
    beginning: String(beginning),
    endsAt: endsAt === null ? null : String(endsAt),
    addresses: JSON.parse(String(addresses)) as string[],
    aMinute: Number(aMinute),
    usedAt: usedAt === null ? null : Number(usedAt),
    portalId: Number(portalId),
    publishedVersion: publishedVersion === null ? null : Number(publishedVersion),
    rightsRevision: Number(revision),
    print: String(print),
  };
}

/** Whether a key has not ended at a moment. */
export const keyHolds = ({ endsAt }: FoundKey, now: Date): boolean => endsAt === null || endsAt > momentParameter(now);

/** It is noted so often that a key is used, in seconds. */
const notedEvery = 60;

/** Whether it is to be noted that a key is used. */
export const isKeyToTouch = ({ usedAt }: FoundKey, now: Date): boolean =>
  usedAt === null || usedAt * 1000 <= now.getTime() - notedEvery * 1000;

export async function touchKey(key: FoundKey, from: string): Promise<void> {
  const now = new Date();
  if (!isKeyToTouch(key, now)) return;
  const text = 'UPDATE service_keys SET used_at = ?, used_from = ? WHERE id = ?';
  await preparedWrite(Portal.sequelize!, text, [momentParameter(now), from.slice(0, 64), key.id]);
}
