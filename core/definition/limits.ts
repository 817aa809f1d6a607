/**
 * A condition as JSON has the limits of its text: this deep, and this long. Looked at before anything that would take
 * long on it.
 */
const deepest = 200;
const longestCondition = 150000;

export function tooMuchNested(input: unknown): { place: string; reason: string } | null {
  const left: [unknown, number, string][] = [[input, 0, '']];
  for (let next = left.pop(); next; next = left.pop()) {
    const [value, depth, place] = next;
    if (typeof value !== 'object' || value === null) continue;
    if (depth > deepest) return { place: place.slice(0, 80), reason: 'this is nested too deep' };
    for (const [key, each] of Object.entries(value))
      if (typeof each === 'object' && each !== null)
        left.push([each, depth + 1, depth < 4 ? `${place}/${key}` : place]);
  }
  return null;
}

const conditionKeys = new Set(['where', 'keepIn', 'when']);

/** A condition stands where one of these keys does. */
export function tooLongCondition(input: unknown): { place: string; reason: string } | null {
  const left: [unknown, string][] = [[input, '']];
  for (let next = left.pop(); next; next = left.pop()) {
    const [value, place] = next;
    if (typeof value !== 'object' || value === null) continue;
    for (const [key, each] of Object.entries(value)) {
      if (typeof each !== 'object' || each === null) continue;
      if (conditionKeys.has(key)) {
        if (sizeOf(each) > longestCondition)
          return { place: `${place}/${key}`, reason: 'this condition is too long; make it of fewer parts' };
      } else left.push([each, `${place}/${key}`]);
    }
  }
  return null;
}

/** About how many characters of JSON it takes, told without writing it. */
export function sizeOf(input: unknown): number {
  let size = 0;
  const left = [input];
  while (left.length > 0 && size <= longestCondition) {
    const value = left.pop();
    if (typeof value === 'string') size += value.length + 3;
    else if (typeof value !== 'object' || value === null) size += 6;
    else
      for (const [key, each] of Object.entries(value)) {
        size += Array.isArray(value) ? 1 : key.length + 4;
        left.push(each);
      }
  }
  return size;
}
