/** An id made of words that none of the rules has. */
export function freeId(words: string, rules: readonly { id: string }[]): string {
  const plain = words
    .toLowerCase()
    .replaceAll(/[^a-z0-9_-]/g, '-')
    .replace(/^[^a-z]+/, 'm')
    .slice(0, 34);
  for (let i = 1; ; i++) {
    const id = i === 1 ? plain : `${plain}-${i}`;
    if (!rules.some((rule) => rule.id === id)) return id;
  }
}
