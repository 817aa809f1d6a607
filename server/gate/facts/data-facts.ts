import type { DefinitionAt } from '../view/definition-at';
import { rolesOf, type KnownPerson } from '../../../core/access/people';
import { checkCondition } from '../../../core/condition/check';
import { joined, name, sql } from '../../../core/sql/sql';
import { negatedColumns, type DataFacts } from '../../../core/check/empty-findings';
import { findTable } from '../../../core/table/catalogue';
import { brokenKeys } from './declared-keys';
import { anyForPeople } from '../review/count-people';
import { fromTable } from '../view/tables';

/**
 * So many members of a role are looked at before all of them are; with one of them who gets a row, nothing is wrong.
 */
const atFirst = 25;
const atMost = 2000;

/** What the data of one source says of a draft's row filters. For builders: it gives counts alone. */
export async function dataFacts(at: DefinitionAt, people: readonly KnownPerson[]): Promise<Omit<DataFacts, 'away'>> {
  const { runner, catalogue, definition } = at;
  const facts: Omit<DataFacts, 'away'> = {
    empties: [],
    nobody: [],
    brokenKeys: await brokenKeys(runner, catalogue, definition),
  };
  const members = people
    .filter((person) => person.id !== null)
    .map((person) => ({ person, roles: new Set(rolesOf(definition, catalogue, person)) }));
  for (const [tableName, grants] of Object.entries(definition.access)) {
    const table = findTable(catalogue, tableName);
    if (!table) continue;
    const negated = new Set<string>();
    for (const [role, grant] of Object.entries(grants)) {
      const where = grant.see?.where;
      if (typeof where !== 'object' || checkCondition(where, { catalogue, table, member: true }).length > 0) continue;
      for (const column of negatedColumns(where, table)) negated.add(column);
      const having = members.filter(({ roles }) => roles.has(role)).map(({ person }) => person);
      if (having.length === 0 || having.length > atMost) continue;
      const some = having.filter((_, i) => having.length <= atFirst || i % Math.ceil(having.length / atFirst) === 0);
      const none = async (of: KnownPerson[]) => !(await anyForPeople(at, table, where, of));
      // Of a table that is still empty nothing is said. It is asked last, since nearly always somebody gets a row.
      if (
        (await none(some)) &&
        (some.length === having.length || (await none(having))) &&
        (await runner.rows(sql`SELECT 1 AS c0 FROM ${fromTable(catalogue, tableName)} t0 LIMIT 1`)).length > 0
      )
        facts.nobody.push({ table: tableName, role, people: having.length });
    }
    if (negated.size === 0) continue;
    const columns = [...negated];
    const [row] = await runner.rows(
      sql`SELECT ${joined(
        columns.map(
          (column, i) => sql`SUM(CASE WHEN t0.${name(column)} IS NULL THEN 1 ELSE 0 END) AS ${name(`c${i}`)}`,
        ),
        sql`, `,
      )} FROM ${fromTable(catalogue, tableName)} t0`,
    );
    columns.forEach((column, i) => facts.empties.push({ table: tableName, column, rows: Number(row?.[i] ?? 0) }));
  }
  return facts;
}
