import { Portal } from './models';
import { momentParameter, prepared, preparedWrite } from './prepared';
import { rightsRevisionSql } from './rights-revision';

/** What each request by a key asks and writes: as prepared statements, since many come. */

export interface FoundKey {
  id: number;
  role: string;
  name: string;
  beginning: string;
  holds: boolean;
  addresses: string[];
  aMinute: number;
  /** When it was last noted that it is used, in seconds; null where never. */
  usedAt: number | null;
  portalId: number;
  publishedVersion: number | null;
  rightsRevision: number;
}

/** The key with a hash, of a portal; null where there is none. */
export async function findKey(hash: string, slug: string): Promise<FoundKey | null> {
  const [row] = await prepared(
    Portal.sequelize!,
    `SELECT k.id, k.role, k.name, k.beginning, k.ends_at IS NULL OR k.ends_at > ?, k.addresses, k.a_minute,
        UNIX_TIMESTAMP(k.used_at), p.id, p.published_version, ${rightsRevisionSql()}
      FROM service_keys k JOIN portals p ON p.id = k.portal_id WHERE k.key_hash = ? AND p.slug = ?`,
    [momentParameter(new Date()), hash, slug],
  );
  if (!row) return null;
  const [id, role, name, beginning, holds, addresses, aMinute, usedAt, portalId, publishedVersion, revision] = row;
  return {
    id: Number(id),
    role: String(role),
    name: String(name),
    beginning: String(beginning),
    holds: Number(holds) === 1,
    addresses: JSON.parse(String(addresses)) as string[],
    aMinute: Number(aMinute),
    usedAt: usedAt === null ? null : Number(usedAt),
    portalId: Number(portalId),
    publishedVersion: publishedVersion === null ? null : Number(publishedVersion),
    rightsRevision: Number(revision),
  };
}

/** It is noted so often that a key is used, in seconds. */
const notedEvery = 60;

export async function touchKey({ id, usedAt }: FoundKey, from: string): Promise<void> {
  const now = Date.now();
  if (usedAt !== null && usedAt * 1000 > now - notedEvery * 1000) return;
  const text = 'UPDATE service_keys SET used_at = ?, used_from = ? WHERE id = ?';
  await preparedWrite(Portal.sequelize!, text, [momentParameter(new Date(now)), from.slice(0, 64), id]);
}
