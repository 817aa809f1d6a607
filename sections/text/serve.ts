import type { Condition } from '../../core/condition/tree';
import { findTable } from '../../core/table/catalogue';
import { list, NotFound, type PlacedVisit } from '../../server/gate/gate';
import { said } from '../../server/http/answers';
import type { SectionServe } from '../serve';
import { factsIn } from './facts';
import type { TextSection } from './spec';

export interface TextTold {
  /** Markdown (CommonMark 0.31), with the reader's own values in their places. */
  text: string;
}

declare module '../serve' {
  interface SectionTold {
    text: TextTold;
  }
}

/**
 * A value of the reader's own: their e-mail, or a column of their roster row, or of what it leads to, as they see it,
 * which may be masked. Null where they have none, or don't see it.
 */
async function ownValue(visit: PlacedVisit, fact: string[]): Promise<unknown> {
  if (fact.length === 1) return fact[0] === 'email' ? visit.person.email : null;
  const [roster, ...path] = fact as [string, ...string[]];
  const table = findTable(visit.catalogue, roster);
  if (!table || table.key.length === 0 || !Object.hasOwn(visit.person.rows, roster)) return null;
  const where = table.key.map((part): Condition => ({
    kind: 'compare',
    left: { kind: 'column', path: [part] },
    comparison: '=',
    right: { kind: 'member', fact: [roster, part] },
  }));
  const question = { columns: [path], sort: [], where, search: '', after: null, before: null, size: 1 };
  const found = await list(visit.source, visit, roster, question).catch((error: unknown) => {
    if (error instanceof NotFound) return null;
    throw error;
  });
  return Object.values(found?.records[0]?.values ?? {})[0] ?? null;
}

/** A value as words of a text: nothing in it is taken for Markdown. */
function asWords(value: unknown): string {
  if (value === null || value === undefined) return '';
  return String(value)
    .replaceAll(/\s+/g, ' ')
    .replaceAll(/[!-/:-@[-`{-~]/g, '\\$&');
}

export const serve: SectionServe<TextSection, TextTold> = {
  tell: async (visit, { text }) => {
    const values = new Map<string, string>();
    for (const { written, fact } of factsIn(text)) values.set(written, asWords(await ownValue(visit, fact)));
    return { text: [...values].reduce((said, [written, value]) => said.replaceAll(written, () => value), text) };
  },
  told: { text: said },
};
