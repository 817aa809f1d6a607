import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';

/**
 * Passwords of connected databases as they lie in ours: AES-256-GCM (NIST SP 800-38D) with a key that is kept outside
 * of the database.
 */

const version = 'v1';
const ivBytes = 12;
const tagBytes = 16;

/** `name` is bound in: a sealed text can't be moved to another connection. */
export function seal(key: Buffer, name: string, secret: string): string {
  const iv = randomBytes(ivBytes);
  const cipher = createCipheriv('aes-256-gcm', key, iv).setAAD(Buffer.from(name));
  const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return `${version}.${Buffer.concat([iv, cipher.getAuthTag(), sealed]).toString('base64')}`;
}

/** Null when it was sealed under another key or name, or changed since. */
export function unseal(key: Buffer, name: string, text: string): string | null {
  const [found, data = ''] = text.split('.');
  const bytes = Buffer.from(data, 'base64');
  // Base64 has bits at its end that say nothing: a text that spends them otherwise is not the one that was sealed.
  if (found !== version || bytes.length < ivBytes + tagBytes || bytes.toString('base64') !== data) return null;
  try {
    const decipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, ivBytes)).setAAD(Buffer.from(name));
    decipher.setAuthTag(bytes.subarray(ivBytes, ivBytes + tagBytes));
    return Buffer.concat([decipher.update(bytes.subarray(ivBytes + tagBytes)), decipher.final()]).toString('utf8');
  } catch {
    return null;
  }
}
