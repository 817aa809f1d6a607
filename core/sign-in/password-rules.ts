import { normaliseEmail } from '../text/email';

/** Whose password it is to be: what it must not be made of. */
export interface PasswordOwner {
  name: string;
  email: string;
  /** What the password opens. */
  portal: string;
}

/**
 * Fewest characters where a password is all that is asked, and where a second factor is asked as well (NIST SP
 * 800-63B-4, 3.1.1.2: 15 and 8).
 */
export const shortestPassword = { alone: 15, besideAnother: 8 } as const;

/** Most characters; the same paragraph asks for at least 64. */
const longestPassword = 256;

/** A password as it is hashed and compared: one way to write each character (the same paragraph, NFKC of UAX 15). */
export const normalisePassword = (password: string): string => password.normalize('NFKC');

/**
 * What is wrong with a new password, in a sentence; null when nothing is. There are no rules about kinds of characters
 * (NIST SP 800-63B-4, 3.1.1.2). `isCommon` says whether a password in small letters is among those that are tried
 * first.
 */
export function passwordProblem(
  password: string,
  owner: PasswordOwner,
  isCommon: (password: string) => boolean,
  shortest: number = shortestPassword.alone,
): string | null {
  const written = normalisePassword(password);
  // Each code point counts as one (the same paragraph).
  const { length } = [...written];
  if (length < shortest) return `Take ${shortest} characters at least: a few words without a link are easy to keep.`;
  if (length > longestPassword) return `Take ${longestPassword} characters at most.`;
  const small = written.toLowerCase();
  if (isRepeated(small) || isCommon(small) || isCommon(small.replaceAll(/\s/g, '')))
    return 'This is among the passwords that are tried first. Choose another.';
  if (isAbout(small, owner)) return 'This is your name, your address or what it opens. Choose another.';
  return null;
}

/** One or a few characters again and again, or characters in a row. */
function isRepeated(password: string): boolean {
  const signs = [...password];
  for (let unit = 1; unit <= 4; unit++) if (signs.every((sign, i) => sign === signs[i % unit])) return true;
  const steps = signs.slice(1).map((sign, i) => sign.codePointAt(0)! - signs[i]!.codePointAt(0)!);
  return steps.length > 0 && steps.every((step) => step === steps[0] && Math.abs(step) === 1);
}

/** So little beside one's own words adds nothing. */
const littleBeside = 4;

function isAbout(password: string, { name, email, portal }: PasswordOwner): boolean {
  const letters = (text: string) => text.toLowerCase().replaceAll(/[^\p{L}\p{N}]/gu, '');
  const [local = '', domain = ''] = normaliseEmail(email).split('@');
  const own = [email, `${local}${local}`, local, domain, name, `${name}${name}`, portal, `${portal}${portal}`]
    .map(letters)
    .filter((word) => word.length > 0);
  const left = letters(password);
  return own.some((word) => left.includes(word) && left.length - word.length < littleBeside);
}
