import { columnsUsed } from '../condition/analyse';
import type { Roster } from '../definition/definition';
import { findColumn, type Catalogue, type Table } from '../table/catalogue';

/** A query to be kept as a table. */
export interface ProposedQuery {
  name: string;
  text: string;
  key: string[];
}

/**
 * A query that makes one row a person of a roster in which an e-mail stands many times: by the e-mail as members are
 * told apart by it, with the least of the name, the organisation and whatever the roster's rules ask. Null where the
 * roster's columns are gone.
 */
export function oneRowAPerson(
  roster: Roster,
  table: Table,
  { database, tables }: Pick<Catalogue, 'database' | 'tables'>,
): ProposedQuery | null {
  const scope = { catalogue: { schema: '', database, tables }, table, member: false };
  const asked = (roster.roles ?? []).flatMap((rule) =>
    columnsUsed(rule.where, scope)
      .filter((each) => each.table === table.name)
      .map((each) => each.column),
  );
  const others = [...new Set([roster.name, ...(roster.organisation ? [roster.organisation] : []), ...asked])].filter(
    (column) => column !== roster.email,
  );
  if ([roster.email, ...others].some((column) => !findColumn(table, column))) return null;
  const sign = database === 'postgresql' ? '"' : '`';
  const quoted = (name: string) =>
    /^[a-z_][a-z0-9_]*$/.test(name) ? name : `${sign}${name.replaceAll(sign, sign + sign)}${sign}`;
  const email = quoted(roster.email);
  const lines = [
    `LOWER(TRIM(${email})) AS ${email}`,
    ...others.map((column) => `MIN(${quoted(column)}) AS ${quoted(column)}`),
  ];
  let name = `${table.name}_people`
    .toLowerCase()
    .replaceAll(/[^a-z0-9_]/g, '_')
    .slice(0, 55);
  while (tables.some((each) => each.name === name)) name += '_1';
  return {
    name,
    text:
      `SELECT ${lines.join(',\n  ')}\nFROM ${quoted(table.name)}\nWHERE TRIM(${email}) <> ''\nGROUP BY ` +
      `LOWER(TRIM(${email}))`,
    key: [roster.email],
  };
}
