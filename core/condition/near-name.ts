/** `; did you mean x?` for the nearest name within two changes, else nothing. */
export function meant(wrong: string, names: string[]): string {
  const ranked = names.map((name) => ({ name, away: editDistance(wrong.toLowerCase(), name.toLowerCase()) }));
  const best = ranked.sort((a, b) => a.away - b.away)[0];
  return best && best.away <= Math.max(1, Math.min(2, Math.floor(wrong.length / 3)))
    ? `; did you mean ${best.name}?`
    : '';
}

/** Levenshtein's distance (V. I. Levenshtein, 1966), by rows. */
function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      next.push(Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1)));
    }
    row = next;
  }
  return row[b.length]!;
}
