import type { PortalDefinition } from '../../../core/definition/definition';
import { factsAlong } from '../../../core/access/facts-asked';
import { bound, joined, name, raw, sql, type Sql } from '../../../core/sql/sql';
import { findColumn, type Catalogue } from '../../../core/table/catalogue';
import type { RawRow, Runner } from '../../sources/source';
import { Assumed, fingerprintOf, withValues } from '../view/assumed';
import { selectList } from '../view/cells';
import { rowsOfAddress, standingRead, type Standing, type StandingRead } from './roster';

/** A question to the product's own tables that gives memberships, in words of our own code that are always the same. */
export interface OwnQuestion {
  selected: readonly string[];
  /** Of those, what may be another the next time and makes no difference. */
  passing?: readonly string[];
  from: string;
  where: string;
  /** For the `?` of `where`; there are none elsewhere. */
  values: readonly string[];
  /** The expressions that name a membership's roster and row. */
  rosterTable: string;
  rowKey: string;
  /** The one that gives the member's address. */
  email: string;
}

/** A membership as our own tables have it, with its roster's row; that is undefined where it was not asked for. */
export interface Membership {
  own: RawRow;
  rosterTable: string | null;
  rowKey: string | null;
  standing: Standing | null | undefined;
  /** How many rows that count carry the member's address now, by roster, where an index tells it. */
  rowsOfAddress: Map<string, number>;
  /** Of all that was told. */
  print: string;
}

interface Joined {
  roster: string;
  read: StandingRead;
  from: number;
}

/** More than this are asked for one by one. */
const mostRosters = 8;

/**
 * Memberships and the roster rows that they name, in one statement instead of one and one more for each. Only where the
 * rosters stand on the product's own server.
 */
export class RostersBeside {
  private readonly joined: Joined[] = [];
  /** Rosters whose rows with the member's address are counted, and where the number stands. */
  private readonly counted = new Map<string, number>();
  private written: { ask: Sql; print: Sql } | null = null;

  constructor(
    readonly catalogue: Catalogue,
    readonly definition: PortalDefinition,
  ) {
    for (const roster of definition.rosters.slice(0, mostRosters)) {
      const read = standingRead(catalogue, roster, factsAlong(definition, roster.table));
      // A query or a view might be made whole before one row of it is taken, and only a number is compared as one.
      const isPlain = read !== null && read.table.query === undefined && read.table.keyByWord === undefined;
      if (isPlain && findColumn(read.table, read.table.key[0]!)!.type === 'whole number')
        this.joined.push({ roster: roster.table, read, from: 0 });
    }
  }

  async ask(runner: Runner, own: OwnQuestion): Promise<Membership[]> {
    const { ask } = (this.written ??= this.write(own));
    const rows = await runner.rows(withValues(ask, own.values));
    return rows.map((row) => this.membership(row, own.selected.length));
  }

  /** That the question gives one membership, and of it all that it told when it had this fingerprint. */
  assumed(own: OwnQuestion, print: string): Assumed {
    const { print: asked } = (this.written ??= this.write(own));
    return Assumed.of(print, withValues(asked, own.values));
  }

  /** The same for every person: what tells them apart is bound at its end. */
  private write(own: OwnQuestion): { ask: Sql; print: Sql } {
    const selected: Sql[] = [...own.selected, own.rosterTable, own.rowKey].map(raw);
    const joins = this.joined.map((each, i): Sql => {
      const { table, tables, selected: columns } = each.read;
      each.from = selected.length;
      const alias = name(`roster${i}`);
      const key = findColumn(table, table.key[0]!)!;
      const inner = sql`SELECT ${tables.root}.${name(key.name)} AS ${name('k')}, ${selectList(columns)}
        FROM ${tables.sql()}`;
      columns.forEach((_, at) => selected.push(sql`${alias}.${name(`c${at}`)}`));
      const number = raw(key.min?.startsWith('-') === false ? 'UNSIGNED' : 'SIGNED');
      return sql` LEFT JOIN (${inner}) ${alias} ON ${raw(own.rosterTable)} = ${bound(each.roster)}
        AND ${alias}.${name('k')} = CAST(${raw(own.rowKey)} AS ${number})`;
    });
    for (const roster of this.definition.rosters.slice(0, mostRosters)) {
      const rows = rowsOfAddress(this.catalogue, roster, raw(own.email));
      if (rows === null) continue;
      this.counted.set(roster.table, selected.length);
      selected.push(rows);
    }
    const compared = selected.filter((_, at) => !own.passing?.includes(own.selected[at]!));
    const print = fingerprintOf(compared);
    const from = sql` FROM ${raw(own.from)}${joined(joins, sql``)} WHERE ${raw(own.where)}`;
    return { ask: sql`SELECT ${selectList([...selected, print])}${from}`, print: sql`SELECT ${print}${from}` };
  }

  private membership(row: RawRow, ownLength: number): Membership {
    const text = (value: unknown) => (value === null || value === undefined ? null : String(value));
    const [rosterTable, rowKey] = [text(row[ownLength]), text(row[ownLength + 1])];
    const found = this.joined.find(({ roster }) => roster === rosterTable);
    const own = row.slice(0, ownLength);
    const rowsOfAddress = new Map([...this.counted].map(([table, at]) => [table, Number(row[at])]));
    const told = { own, rosterTable, rowKey, rowsOfAddress, print: String(row.at(-1)) };
    if (!found) return { ...told, standing: undefined };
    const [address, standing] = found.read.read(row, found.from);
    // The row that the membership names and no other, whatever the database takes for the same number.
    return { ...told, standing: address === rowKey ? standing : null };
  }
}
