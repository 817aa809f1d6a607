import { normaliseEmail } from '../text/email';

/** Why an address of a roster's row is nobody's. */
export type EmailFault = 'no e-mail' | 'not an e-mail';

/** What no address may hold: space and control characters, which are also what would break a mail's head. */
// eslint-disable-next-line no-control-regex
const neverIn = /[\s\u0000-\u001F\u007F-\u009F\u2028\u2029]/;

/**
 * The address of a row as people are told apart by it, or why it is none. Letters of all scripts may stand in it (RFC
 * 6531), up to 254 bytes in UTF-8 (RFC 5321, 4.5.3.1.3, without the angle brackets) and 64 before the @ (4.5.3.1.1).
 */
export function rosterEmail(written: string): { email: string } | { fault: EmailFault } {
  const email = normaliseEmail(written);
  if (email === '') return { fault: 'no e-mail' };
  const at = email.lastIndexOf('@');
  const isSound =
    at > 0 && at < email.length - 1 && !neverIn.test(email) && bytes(email) <= 254 && bytes(email.slice(0, at)) <= 64;
  return isSound ? { email } : { fault: 'not an e-mail' };
}

const bytes = (text: string) => new TextEncoder().encode(text).length;
