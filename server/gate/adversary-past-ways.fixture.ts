import type { PortalDefinition } from '../../core/definition/definition';
import { ownRecords } from './read/own-records';
import { keptRow, past } from './read/past';
import { holdRows } from './review/prove';
import type { Visit } from './view/visit';
import { tables, type Attempt } from './adversary.fixture';

/** The same rights, with all tables' histories kept and read. */
function withHistories({ definition, ...visit }: Visit): Visit {
  const next: PortalDefinition = structuredClone(definition);
  for (const [table, grants] of Object.entries(next.access)) {
    (next.tables[table] ??= {}).history = {};
    for (const grant of Object.values(grants)) grant.history = true;
  }
  return { ...visit, definition: next };
}

/** What the adversary tries to learn of records as they were: every row of a table is said to have stood in it. */
export const pastWays: Record<string, () => Attempt[]> = {
  past: () =>
    tables.flatMap((table) =>
      ['1', '2', '3', '50', '60', '100', '104', '999', 'x'].map((id): Attempt => [
        `past of ${table} ${id}`,
        async ({ source }, asking) => {
          const { tells } = await past({ ...withHistories(asking), source }, table, id);
          const { held } = await holdRows(source, asking.catalogue, 1000);
          const kept = held.rows(table).map((row) => JSON.parse(keptRow(row)!) as Record<string, unknown>);
          const told = await tells(kept.map((row) => ({ was: row, now: null })));
          return told.filter((changes) => changes.length > 0);
        },
      ]),
    ),
  ownRecords: () =>
    tables.map((table): Attempt => [
      `own records of ${table}`,
      async ({ source }, asking) => {
        const found: unknown[] = [];
        for await (const page of ownRecords({ ...asking, source }, table)) found.push(page);
        return found;
      },
    ]),
};
