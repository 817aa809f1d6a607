import { Builder, Portal } from './models';
import { prepared } from './prepared';
import { rightsRevisionSql } from './rights-revision';

/** What each request of a builder asks before anything else: as two prepared statements, since a page sends dozens. */

/** A builder's session, with what decides whether it lets in. */
export interface SessionAtBench {
  builder: Builder;
  session: { tokenHash: string; expiresAt: Date; seenAt: Date; lacks: string | null };
  rightsRevision: number;
  /** A setting's text; null where it was never set. */
  rules: string | null;
}

const moment = (seconds: unknown): Date => new Date(Number(seconds) * 1000);

/** The session of a token's hash; null where there is none, or no builder's. `rules` names the setting to read. */
export async function sessionAtBench(tokenHash: string, rules: string): Promise<SessionAtBench | null> {
  const [row] = await prepared(
    Builder.sequelize!,
    `SELECT UNIX_TIMESTAMP(s.expires_at), UNIX_TIMESTAMP(s.seen_at), s.lacks, ${rightsRevisionSql()},
        (SELECT value FROM settings WHERE name = ?), b.id, b.email, b.name, b.password_hash, b.\`right\`, b.portals,
        b.suspended, b.sees_personal, UNIX_TIMESTAMP(b.last_in)
      FROM sessions s JOIN builders b ON b.id = s.builder_id WHERE s.token_hash = ?`,
    [rules, tokenHash],
  );
  if (!row) return null;
  const [expires, seen, lacks, revision, setting, id, email, name, passwordHash, right, portals, ...states] = row;
  const [suspended, seesPersonal, lastIn] = states;
  const text = (value: unknown) => (value === null ? null : String(value));
  return {
    session: { tokenHash, expiresAt: moment(expires), seenAt: moment(seen), lacks: text(lacks) },
    rightsRevision: Number(revision ?? 0),
    rules: text(setting),
    builder: Builder.build(
      {
        id: Number(id),
        email: String(email),
        name: String(name),
        passwordHash: text(passwordHash),
        right: right as Builder['right'],
        portals: text(portals),
        suspended: Number(suspended) === 1,
        seesPersonal: Number(seesPersonal) === 1,
        lastIn: lastIn === null ? null : moment(lastIn),
      },
      { raw: true, isNewRecord: false },
    ),
  };
}

/** A portal by its address, and whether any connection at all is kept for some builders; null where there is none. */
export async function portalAtBench(slug: string): Promise<{ portal: Portal; isAnyKept: boolean } | null> {
  const [row] = await prepared(
    Portal.sequelize!,
    `SELECT EXISTS (SELECT 1 FROM connections WHERE builders IS NOT NULL), id, slug, draft, revision, published_version,
      address FROM portals WHERE slug = ?`,
    [slug],
  );
  if (!row) return null;
  const [isAnyKept, id, itsSlug, draft, revision, publishedVersion, address] = row;
  const portal = Portal.build(
    {
      id: Number(id),
      slug: String(itsSlug),
      draft: String(draft),
      revision: Number(revision),
      publishedVersion: publishedVersion === null ? null : Number(publishedVersion),
      address: address === null ? null : String(address),
    },
    { raw: true, isNewRecord: false },
  );
  return { portal, isAnyKept: Number(isAnyKept) === 1 };
}
