import { printPath } from '../../core/definition/path';
import { findTable } from '../../core/table/catalogue';
import { NotFound, read, recordId, type PlacedVisit } from '../../server/gate/gate';
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
 * The columns of one of the reader's roster rows, and of what it leads to, as they see them, by their paths' text:
 * masked where they get them masked, absent where they don't see them. Read as any record of theirs.
 */
async function ownRow(visit: PlacedVisit, roster: string, paths: string[][]): Promise<Record<string, unknown>> {
  const table = findTable(visit.catalogue, roster);
  const row = Object.hasOwn(visit.person.rows, roster) ? visit.person.rows[roster]! : null;
  if (!table || !row) return {};
  const id = recordId(table.key.map((part) => row[part] ?? null));
  try {
    return (await read(visit.source, visit, roster, id, paths)).values;
  } catch (error) {
    if (error instanceof NotFound) return {};
    throw error;
  }
}

/** The reader's own address; where a builder looks who is kept from personal data, none. */
const emailOf = ({ person }: PlacedVisit): string | null => (person.withoutSight ? null : person.email);

/** A value as words of a text: nothing in it is taken for Markdown. */
function asWords(value: unknown): string {
  if (value === null || value === undefined) return '';
  return String(value)
    .replaceAll(/\s+/g, ' ')
    .replaceAll(/[!-/:-@[-`{-~]/g, '\\$&');
}

export const serve: SectionServe<TextSection, TextTold> = {
  tell: async (visit, { text }) => {
    const facts = factsIn(text);
    const rosters = new Map<string, string[][]>();
    for (const { fact } of facts) {
      const [roster, ...path] = fact as [string, ...string[]];
      if (path.length > 0) rosters.set(roster, [...(rosters.get(roster) ?? []), path]);
    }
    const rows = new Map<string, Record<string, unknown>>();
    for (const [roster, paths] of rosters) rows.set(roster, await ownRow(visit, roster, paths));
    const valueOf = ([first, ...path]: string[]): unknown => {
      if (path.length === 0) return first === 'email' ? emailOf(visit) : null;
      const [row, column] = [rows.get(first!)!, printPath(path)];
      return Object.hasOwn(row, column) ? row[column] : null;
    };
    const values = new Map(facts.map(({ written, fact }) => [written, asWords(valueOf(fact))]));
    return { text: [...values].reduce((said, [written, value]) => said.replaceAll(written, () => value), text) };
  },
  told: { text: said },
};
