import type { Roster } from '../../../core/definition/definition';
import { dialectOf } from '../../../core/dialect/of';
import { bound, joined, name, raw, sql, type Sql } from '../../../core/sql/sql';
import { findColumn, type Catalogue } from '../../../core/table/catalogue';
import type { Runner } from '../../sources/source';
import { selectList } from '../view/cells';
import { decode } from '../view/decode';
import { recordId } from '../view/record-id';
import { nameColumns } from '../../../core/definition/name-columns';
import { countsSql, rosterTable, type RosterRow } from './roster';

/** Where the product's own tables are on the server that holds the roster, and whose members are meant. */
interface OwnTables {
  schema: string;
  portalId: number;
}

/** A row that differs from the member that it is known by, or is nobody's yet. */
interface RowApart extends RosterRow {
  memberId: number | null;
  /** Whether it made them a member when it was last looked at. */
  holds: boolean;
}

/** Some of the rows; `isAll` where there are no others. */
interface PageApart {
  rows: RowApart[];
  isAll: boolean;
}

const pageSize = 5000;

/**
 * The rows of a roster that are not as their members are kept, a page at a time; then the members whose row is gone.
 * Null where that can't be asked in one statement: the roster is no plain table on the product's own server, or its key
 * is no number. What comes of it is decided elsewhere; a row too many costs a look.
 */
export function rosterApart(
  runner: Runner,
  catalogue: Catalogue,
  roster: Roster,
  own: OwnTables,
): { pages(): AsyncGenerator<PageApart>; gone(): Promise<number[]> } | null {
  const table = rosterTable(catalogue, roster);
  const key = table && findColumn(table, table.key[0]!)!;
  if (!table || table.query !== undefined || table.stored !== undefined || key?.type !== 'whole number') return null;
  const root = name('t0');
  const at = sql`${root}.${name(key.name)}`;
  const memberships = sql`${name(own.schema)}.${name('memberships')} r`;
  const members = sql`${name(own.schema)}.${name('members')} m`;
  const email = sql`${root}.${name(roster.email)}`;
  const counts = countsSql(catalogue, table, roster, root);
  const names = nameColumns(roster).map((column) => sql`${root}.${name(column)}`);
  const called = joined(
    names.map((part) => sql`NULLIF(TRIM(CONVERT(${part} USING utf8mb4)), ${bound('')})`),
    sql`, `,
  );
  const same = sql`r.holds AND m.on_roster AND ${counts} AND m.email = ${dialectOf(catalogue).emailKey(email)}
    AND m.name = LEFT(CONCAT_WS(${bound(' ')}, ${called}), 200) COLLATE utf8mb4_bin`;
  const ofPortal = sql`r.portal_id = ${bound(own.portalId)} AND r.roster_table = ${bound(roster.table)}`;
  const selected = [
    at,
    email,
    sql`CASE WHEN ${counts} THEN 1 ELSE 0 END`,
    raw('r.member_id'),
    raw('r.holds'),
    ...names,
  ];
  const page = (behind: Sql) =>
    runner.rows(
      sql`SELECT ${selectList(selected)} FROM ${name(table.name)} ${root}
        LEFT JOIN ${memberships} ON ${ofPortal}
          AND r.row_key = CONVERT(CAST(${at} AS CHAR) USING utf8mb4) COLLATE utf8mb4_bin
        LEFT JOIN ${members} ON m.id = r.member_id
        WHERE (${same}) IS NOT TRUE${behind} ORDER BY ${at} LIMIT ${bound(pageSize)}`,
    );
  return {
    pages: async function* () {
      let isFirst = true;
      for (let behind = sql``; ;) {
        const rows = await page(behind);
        if (rows.length > 0)
          yield {
            isAll: isFirst && rows.length < pageSize,
            rows: rows.map(([ownKey, written, counting, memberId, holds, ...parts]) => ({
              key: recordId([decode(key, ownKey)]),
              email: String(written ?? ''),
              counts: Number(counting) === 1,
              memberId: memberId === null || memberId === undefined ? null : Number(memberId),
              holds: Number(holds ?? 0) === 1,
              name: parts
                .map((part) => String(part ?? '').trim())
                .filter((part) => part !== '')
                .join(' '),
            })),
          };
        isFirst = false;
        if (rows.length < pageSize) return;
        behind = sql` AND ${at} > ${bound(String(rows.at(-1)![0]))}`;
      }
    },
    gone: async () => {
      const number = raw(key.min?.startsWith('-') === false ? 'UNSIGNED' : 'SIGNED');
      const rows = await runner.rows(
        sql`SELECT r.member_id AS c0 FROM ${memberships}
          LEFT JOIN ${name(table.name)} ${root} ON ${at} = CAST(r.row_key AS ${number})
          WHERE ${ofPortal} AND r.holds AND ${at} IS NULL`,
      );
      return rows.map(([id]) => Number(id));
    },
  };
}
