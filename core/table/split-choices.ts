/**
 * The choices that stand in text between commas. A choice that has commas itself is known by those that there are;
 * what is none of them is given as it stands.
 */
export function splitChoices(text: string, choices: readonly string[]): string[] {
  const longest = choices.toSorted((a, b) => b.length - a.length);
  const found: string[] = [];
  for (let rest = text.trim(); rest !== '';) {
    const choice = longest.find((each) => rest.startsWith(each) && /^\s*(?:,|$)/.test(rest.slice(each.length)));
    const taken = choice ?? rest.split(',', 1)[0]!;
    if (taken.trim() !== '') found.push(taken.trim());
    rest = rest.slice(taken.length).replace(/^\s*,/, '').trim();
  }
  return found;
}
