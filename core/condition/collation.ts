import { generalWeights } from './general-weights';

/**
 * Text comparison as MariaDB's collations do it. Two families are known in memory: binary (`…_bin`) and general
 * (`utf8mb4_general_ci`, MariaDB's default); the weights of the latter were read from the server with WEIGHT_STRING and
 * the tests read them again. Both pad the shorter text with spaces, as PAD SPACE collations do. `C` is PostgreSQL's: by
 * code point, which is the order of the bytes of UTF-8, and without padding.
 */
export function isComparableCollation(name: string): boolean {
  return (
    name === 'utf8mb4_general_ci' ||
    name === 'utf8mb4_bin' ||
    name === 'utf8mb3_general_ci' ||
    name === 'utf8mb3_bin' ||
    name === 'C'
  );
}

/** Texts are to be compared in a way that memory does not know. */
export class UnknownCollation extends Error {}

type Weigh = (codePoint: number) => number;

const weighGeneral: Weigh = (codePoint) => (codePoint > 0xffff ? 0xfffd : (generalWeights.get(codePoint) ?? codePoint));
const weighBinary: Weigh = (codePoint) => codePoint;

function weigher(collation: string): Weigh {
  if (!isComparableCollation(collation))
    throw new UnknownCollation(`the collation ${collation} is not known in memory`);
  return collation.endsWith('_bin') || collation === 'C' ? weighBinary : weighGeneral;
}

function weights(text: string, weigh: Weigh): number[] {
  return Array.from(text, (character) => weigh(character.codePointAt(0)!));
}

/** Negative, zero or positive, as `a` sorts before, with or after `b`. */
export function compareText(collation: string, a: string, b: string): number {
  if (a === b) return 0;
  const weigh = weigher(collation);
  const padding = collation === 'C' ? -1 : 0x20;
  for (let i = 0, j = 0; i < a.length || j < b.length;) {
    const left = a.codePointAt(i);
    const right = b.codePointAt(j);
    const difference = (left === undefined ? padding : weigh(left)) - (right === undefined ? padding : weigh(right));
    if (difference) return difference;
    i += left !== undefined && left > 0xffff ? 2 : 1;
    j += right !== undefined && right > 0xffff ? 2 : 1;
  }
  return 0;
}

/** A text that is the same for two texts exactly when the collation holds them equal. */
export function collationKey(collation: string, text: string): string {
  const weigh = weigher(collation);
  if (collation === 'C') return text;
  const key = weights(text, weigh);
  while (key.at(-1) === 0x20) key.pop();
  return key.map((weight) => String.fromCodePoint(weight)).join('');
}

/** Whether `text` matches a LIKE pattern; trailing spaces count here, as they do in MariaDB. */
export function likeText(collation: string, text: string, pattern: string): boolean {
  const weigh = weigher(collation);
  const subject = weights(text, weigh);
  const wanted: (number | 'one' | 'any')[] = [];
  const signs = Array.from(pattern);
  for (let i = 0; i < signs.length; i++) {
    const sign = signs[i]!;
    if (sign === '%') wanted.push('any');
    else if (sign === '_') wanted.push('one');
    else wanted.push(weigh((sign === '\\' && i + 1 < signs.length ? signs[++i]! : sign).codePointAt(0)!));
  }
  // Greedy matching with one point to return to: linear in practice, never exponential.
  let at = 0;
  let part = 0;
  let anyPart = -1;
  let anyAt = 0;
  while (at < subject.length) {
    const want = wanted[part];
    if (want === 'any') {
      anyPart = part++;
      anyAt = at;
    } else if (want === 'one' || (want !== undefined && want === subject[at])) {
      part++;
      at++;
    } else if (anyPart >= 0) {
      part = anyPart + 1;
      at = ++anyAt;
    } else {
      return false;
    }
  }
  while (wanted[part] === 'any') part++;
  return part === wanted.length;
}
