import { afterAll, beforeAll, inject } from 'vitest';
import type { Connection } from 'mariadb';
import { demoDefinition } from '../../demo/definition';
import { loadTables } from '../../demo/load';
import { freshSchema, schemaOfWorker } from '../../test/tables';
import type { Person } from '../../core/access/person';
import { rolesOfRows } from '../../core/access/roster-roles';
import { parseCondition } from '../../core/condition/parse';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import { keepsNothing } from '../leaving/keep-history';
import { MariadbSource } from '../sources/mariadb';
import { list, type ListQuestion } from './read/list';
import { rosterRow } from './facts/roster';
import type { Visit } from './view/visit';

/** Numbers beside the gate's come from plain SQL written here, on a connection of its own. */
const schema = schemaOfWorker('gate');

export let plain: Connection;

export let source: MariadbSource;

export let catalogue: Catalogue;

export const definition = demoDefinition(schema);

export const everything: ListQuestion = {
  columns: [],
  sort: [],
  where: [],
  search: '',
  after: null,
  before: null,
  size: 200,
};

export const when = (text: string) => parseCondition(text).condition;

/** To be called once in each file that uses these: several files may share one process. */
export function withGateTables(): void {
  beforeAll(async () => {
    plain = await freshSchema(inject('database'), schema);
    await loadTables(inject('database'), schema);
    source = new MariadbSource(inject('database'), schema);
    catalogue = await source.catalogue();
  });

  afterAll(async () => {
    await source?.close();
    await plain?.end();
  });
}

export async function member(rows: Record<string, number>, id = 1_000_000): Promise<Person> {
  const person: Person = { kind: 'member', id, email: 'x@example.org', organisation: null, roles: [], rows: {} };
  for (const [table, key] of Object.entries(rows)) {
    const roster = definition.rosters.find((each) => each.table === table)!;
    person.rows[table] = (await rosterRow(source, catalogue, roster, String(key)))!;
    person.roles = rolesOfRows(definition, catalogue, person.rows);
  }
  return person;
}

export const visit = (person: Person, changed: PortalDefinition = definition): Visit => ({
  definition: changed,
  catalogue,
  person,
  moment: new Date('2026-11-23T12:00:00Z'),
  history: keepsNothing,
});

export const number = async (text: string): Promise<number> =>
  Number((await plain.query<{ n: number }[]>(`SELECT COUNT(*) n FROM ${text}`))[0]!.n);

/** Walks a list page by page to its end. */
export async function walk(asked: Visit, table: string, question: Partial<ListQuestion>): Promise<string[]> {
  const ids: string[] = [];
  let after: string | null = null;
  do {
    const page = await list(source, asked, table, { ...everything, size: 7, ...question, after });
    ids.push(...page.records.map((record) => record.id!));
    after = page.next;
  } while (after !== null);
  return ids;
}
