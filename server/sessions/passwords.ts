import { hash, verify } from '@node-rs/argon2';
import { normalisePassword } from '../../core/sign-in/password-rules';

/**
 * Argon2id (RFC 9106) with 19 MiB, two passes and one lane: the first choice of OWASP's password storage advice (from
 * memory).
 */
const options = { algorithm: 2, memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

export function hashPassword(password: string): Promise<string> {
  return hash(normalisePassword(password), options);
}

let decoy: Promise<string> | null = null;

/**
 * Whether the password fits. Without a hash a decoy is verified, so that the answer takes as long as for a known
 * person.
 */
export async function passwordFits(passwordHash: string | null | undefined, password: string): Promise<boolean> {
  decoy ??= hashPassword('a password that nobody has');
  const fits = await verify(passwordHash ?? (await decoy), normalisePassword(password));
  return fits && Boolean(passwordHash);
}
