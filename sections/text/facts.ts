import { audienceProblems } from '../../core/access/audience';
import type { Catalogue } from '../../core/table/catalogue';

/** A value of the reader's own that a text names: their e-mail, or a column of their roster row. */
export interface NamedFact {
  /** As it stands in the text. */
  written: string;
  fact: string[];
}

const name = String.raw`\.(?:[\p{L}_][\p{L}\p{N}_]*|"(?:[^"]|"")+")`;
const facts = new RegExp(String.raw`\{:member((?:${name})+)\}`, 'gu');
const parts = new RegExp(name, 'gu');

/** What a text names, each as often as it stands there. */
export function factsIn(text: string): NamedFact[] {
  return [...text.matchAll(facts)].map(([written, path]) => ({
    written,
    fact: [...path!.matchAll(parts)].map(([part]) => {
      const bare = part.slice(1);
      return bare.startsWith('"') ? bare.slice(1, -1).replaceAll('""', '"') : bare;
    }),
  }));
}

/** Why nothing can stand in the place of a fact, in words; null where something can. */
export function factProblem(fact: string[], catalogue: Catalogue): string | null {
  if (fact.length === 1 && fact[0] !== 'email')
    return "a text can name :member.email, or a column of the reader's roster row as :member.<table>.<column>";
  return audienceProblems({ kind: 'null', left: { kind: 'member', fact } }, catalogue)[0] ?? null;
}
