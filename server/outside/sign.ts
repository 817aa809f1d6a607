import { createHmac, randomBytes } from 'node:crypto';

/**
 * Signatures of calls after the Standard Webhooks specification (1.0): HMAC-SHA-256 over `id.timestamp.body`, in
 * base64, after the scheme's sign. A secret is `whsec_` and 24 to 64 bytes in base64.
 */

const mark = 'whsec_';

export const newSecret = (): string => mark + randomBytes(32).toString('base64');

/** The headers that a call carries; one signature for each secret, so that a secret can be changed at the other end. */
export function signedHeaders(
  secrets: readonly string[],
  { id, at, body }: { id: string; at: Date; body: string },
): Record<string, string> {
  const seconds = Math.floor(at.getTime() / 1000);
  const signatures = secrets.map((secret) => {
    const key = Buffer.from(secret.slice(mark.length), 'base64');
    return `v1,${createHmac('sha256', key).update(`${id}.${seconds}.${body}`).digest('base64')}`;
  });
  return {
    'webhook-id': id,
    'webhook-timestamp': String(seconds),
    'webhook-signature': signatures.join(' '),
  };
}
