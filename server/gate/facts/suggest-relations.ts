import { kindOf } from '../../../core/condition/operand-kind';
import { bound, name, sql } from '../../../core/sql/sql';
import { dialectOf } from '../../../core/dialect/of';
import { isClosed, findColumn, type Catalogue, type Relation, type Table } from '../../../core/table/catalogue';
import { countByValue } from '../view/across';
import { decode } from '../view/decode';
import { fromTable } from '../view/tables';
import type { Part } from '../view/visit';
import type { Runner } from '../../sources/source';

/** A relation that no foreign key declares, and what speaks for it. */
export interface RelationSuggestion extends Relation {
  /** How many of the filled values are found at the other end. */
  found: number;
  of: number;
}

/** So large a share of the values must be found. */
const enough = 0.9;

/** Relations of a table by the names of columns, held against their values. For builders; gives only counts. */
export async function suggestRelations(
  runner: Runner,
  catalogue: Catalogue,
  table: Table,
): Promise<RelationSuggestion[]> {
  const suggestions: RelationSuggestion[] = [];
  for (const relation of candidates(catalogue.tables, table)) {
    const column = sql`t0.${name(relation.column)}`;
    const there = sql`EXISTS (SELECT 1 FROM ${fromTable(catalogue, relation.table)} t1
      WHERE t1.${name(relation.targetColumn)} = ${column})`;
    const [row] = await runner.rows(
      sql`SELECT COUNT(*) AS c0, SUM(CASE WHEN ${there} THEN 1 ELSE 0 END) AS c1
        FROM ${fromTable(catalogue, table.name)} t0 WHERE ${column} IS NOT NULL`,
    );
    const [of, found] = [Number(row?.[0] ?? 0), Number(row?.[1] ?? 0)];
    if (of > 0 && found >= enough * of && !suggestions.some((other) => other.column === relation.column))
      suggestions.push({ ...relation, found, of });
  }
  return suggestions;
}

/** So many different values are looked up in another source. */
const triedValues = 1000;

/**
 * Relations of a table to tables of other sources: some of the values of each column are looked up there. For builders;
 * gives only counts.
 */
export async function suggestCrossings(own: Part, others: Part[], table: Table): Promise<RelationSuggestion[]> {
  const suggestions: RelationSuggestion[] = [];
  for (const { source, catalogue } of others)
    for (const relation of candidates(catalogue.tables, table)) {
      if (suggestions.some((other) => other.column === relation.column)) continue;
      const column = findColumn(table, relation.column)!;
      const read = dialectOf(own.catalogue).read(sql`t0.${name(column.name)}`, column);
      const rows = await own.source.rows(
        sql`SELECT DISTINCT ${read} AS c0 FROM ${fromTable(own.catalogue, table.name)} t0
          WHERE t0.${name(column.name)} IS NOT NULL LIMIT ${bound(triedValues)}`,
      );
      const found = await countByValue(
        source,
        catalogue,
        relation,
        rows.map((row) => decode(column, row[0])),
      );
      if (rows.length > 0 && found >= enough * rows.length) suggestions.push({ ...relation, found, of: rows.length });
    }
  return suggestions;
}

/** `owner_id` may point to owners.id, `well_code` to wells.code, and `analyte_code` to analytes.code. */
function candidates(tables: Table[], table: Table): Relation[] {
  const free = table.columns.filter(
    (column) =>
      !isClosed(table, column.name) &&
      !table.key.includes(column.name) &&
      !table.relations.some((relation) => relation.column === column.name),
  );
  return free.flatMap((column) =>
    tables.flatMap((other) =>
      other.columns
        .filter((each) => !isClosed(other, each.name))
        .flatMap((target): Relation[] => {
          const alone = target.unique || (other.key.length === 1 && other.key[0] === target.name);
          const one = singular(other.stored ?? other.name);
          if (
            other === table ||
            !alone ||
            kindOf(target) !== kindOf(column) ||
            kindOf(column) === 'none' ||
            column.name !== `${one}_${target.name}`
          )
            return [];
          const taken = (each: string) =>
            table.columns.some((known) => known.name === each) || table.relations.some((known) => known.name === each);
          return [
            {
              name: taken(one) ? `${one}_record` : one,
              column: column.name,
              table: other.name,
              targetColumn: target.name,
            },
          ];
        }),
    ),
  );
}

function singular(table: string): string {
  return table.endsWith('ies') ? `${table.slice(0, -3)}y` : table.endsWith('s') ? table.slice(0, -1) : table;
}
