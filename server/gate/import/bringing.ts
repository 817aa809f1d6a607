import { viewSql, ViewSql, yes } from '../view/view-sql';
import { tableRights, type TableRights } from '../../../core/access/rights';
import { askable } from '../../../core/access/ask';
import { neededColumns } from '../../../core/access/view';
import { name, sql } from '../../../core/sql/sql';
import { findColumn, findTable, isNeeded, type Column, type Table } from '../../../core/table/catalogue';
import { relationOf, type ImportColumn, type ImportPlan } from '../../../core/table/import-plan';
import { readCell } from '../../../core/table/read-cell';
import { sameValue, type Value } from '../../../core/table/value';
import type { Runner } from '../../sources/source';
import type { Decided } from './bring-outcome';
import { Cells } from '../view/cells';
import { decode } from '../view/decode';
import { InvalidValues } from '../view/errors';
import { openTable } from '../view/open-table';
import { matching, sameKey } from './matches';
import { recordId } from '../view/record-id';
import { Tables } from '../view/tables';
import type { Visit } from '../view/visit';
import { noSuchRecord } from '../write/references';

/** Some records of a file, their cells in the order of the plan's columns. */
export interface FileRows {
  /** Which cells the file itself holds as a number, a date or a truth. */
  typed?: boolean[][];
  rows: string[][];
  lines: number[];
}

/** One file on its way into one table: what each of its records is to become. */
export class Bringing {
  readonly view: ViewSql;
  readonly table: Table;
  private readonly rights: TableRights;
  private readonly columns: (ImportColumn & { known: Column })[];
  /** What stood in the file already, by column: values that must be different in each record. */
  private readonly seen = new Map<string, Set<string>>();

  constructor(
    private readonly runner: Runner,
    private readonly visit: Visit,
    private readonly plan: ImportPlan,
  ) {
    this.view = viewSql(visit);
    this.table = openTable(visit, this.view, plan.table);
    this.rights = tableRights(this.view.view(this.table));
    const faults: Record<string, string> = {};
    this.columns = plan.columns.map((each) => {
      const known = findColumn(this.table, each.column);
      if (!known || !this.canFill(each.column))
        faults[each.header] = `The column ${each.column} can't be filled by you.`;
      if (known?.kind === 'file') faults[each.header] = `${each.column} holds files, which are sent one by one.`;
      if (plan.columns.some((other) => other !== each && other.column === each.column))
        faults[each.header] = `Two columns of the file go into ${each.column}.`;
      return { ...each, known: known! };
    });
    if (plan.key !== null && !plan.columns.some((each) => each.column === plan.key))
      faults.key = `The file brings no ${plan.key}, so known records can't be told by it.`;
    if (plan.key !== null && askable(this.view.view(this.table), plan.key)?.by !== 'value')
      faults.key = `Records can't be told by ${plan.key}, because you don't see all of it.`;
    if (plan.key !== null && this.table.key.length === 0)
      faults.key = 'This table has no primary key, so its records can only be added to.';
    if (Object.keys(faults).length > 0) throw new InvalidValues(faults);
  }

  /** The key of known records may stand in the file although it is never changed. */
  private canFill(column: string): boolean {
    return column === this.plan.key || this.rights.brings(column);
  }

  /** A key that stands in more than one record tells nothing. */
  async check(): Promise<void> {
    const { plan, table, view, runner } = this;
    const key = plan.key === null ? undefined : findColumn(table, plan.key);
    if (!key || key.unique || (table.key.length === 1 && table.key[0] === key.name)) return;
    const tables = new Tables(this.visit.catalogue, table);
    const asked = view.asked(tables, [], table, key.name);
    const rows = view.rows(tables);
    const [twice] = await runner.rows(
      sql`SELECT ${asked} AS c0, COUNT(*) AS c1 FROM ${tables.sql()} WHERE ${rows} AND ${asked} IS NOT NULL GROUP BY 1
        HAVING COUNT(*) > 1 LIMIT 1`,
    );
    if (twice)
      throw new InvalidValues({
        key:
          `${String(decode(key, twice[0]))} stands in ${Number(twice[1])} records, so ${key.name} can't tell ` +
          'records apart. Choose another column.',
      });
  }

  async decide({ rows, lines, typed }: FileRows): Promise<Decided[]> {
    const decided = rows.map((_, at): Decided => ({
      at,
      line: lines[at]!,
      what: { kind: 'refuse' },
      reasons: [],
      late: false,
    }));
    const values = await this.read(rows, typed, decided);
    const known = await this.knownRecords(values, decided);
    rows.forEach((row, at) => {
      if (decided[at]!.reasons.length === 0) this.decideOne(row, values[at]!, known[at]!, decided[at]!);
    });
    await this.refuseTaken(decided);
    return decided;
  }

  /** The values of each record; what can't be read, or leads to no record, is a reason. */
  private async read(
    rows: string[][],
    typed: boolean[][] | undefined,
    decided: Decided[],
  ): Promise<Map<string, Value>[]> {
    const values = rows.map(() => new Map<string, Value>());
    for (const [place, column] of this.columns.entries()) {
      const relation = relationOf(this.table, column.column);
      const other = relation && findTable(this.visit.catalogue, relation.table);
      const labelled = other && column.by !== undefined ? findColumn(other, column.by) : undefined;
      const readAs = labelled ? { ...labelled, nullable: true } : { ...column.known, nullable: true };
      rows.forEach((row, at) => {
        const parsed = readCell(readAs, row[place]!, column.notation, typed?.[at]![place]);
        if (parsed.ok) values[at]!.set(column.column, parsed.value);
        else decided[at]!.reasons.push({ column: column.column, reason: parsed.problem });
      });
      if (relation && other) await this.follow(other, relation.targetColumn, column, labelled, values, decided);
    }
    return values;
  }

  /**
   * Replaces labels by the values that the relation holds, and refuses values that lead to no record of the person's
   * view.
   */
  private async follow(
    other: Table,
    target: string,
    column: ImportColumn,
    labelled: Column | undefined,
    values: Map<string, Value>[],
    decided: Decided[],
  ): Promise<void> {
    const by = labelled ?? findColumn(other, target)!;
    const filled = values.flatMap((row, at) => ((row.get(column.column) ?? null) === null ? [] : [at]));
    const distinct = [
      ...new Map(
        filled.map((at) => [sameKey(by, values[at]!.get(column.column)!), values[at]!.get(column.column)!]),
      ).values(),
    ];
    const isEnd = by.name === target;
    if (!isEnd && askable(this.view.view(other), by.name)?.by !== 'value')
      throw new InvalidValues({
        [column.header]: `Records of ${other.name} can't be told by ${by.name}, because you don't see all of it.`,
      });
    const rows = await matching(this.runner, this.view, distinct, by, () => {
      const tables = new Tables(this.visit.catalogue, other);
      const end = this.view.end(other, target, tables);
      return {
        tables,
        asked: isEnd ? end : this.view.asked(tables, [], other, by.name),
        where: this.view.rows(tables),
        selected: [end],
      };
    });
    const found = new Map(distinct.map((value, i) => [sameKey(by, value), rows[i]!]));
    for (const at of filled) {
      const ends = found
        .get(sameKey(by, values[at]!.get(column.column)!))!
        .map((row) => row[0])
        .filter((end) => end !== null);
      if (ends.length === 1) values[at]!.set(column.column, decode(findColumn(other, target)!, ends[0]));
      else
        decided[at]!.reasons.push({
          column: column.column,
          reason:
            ends.length === 0
              ? labelled
                ? `No record of ${other.name} has this ${by.name}.`
                : noSuchRecord
              : `${ends.length} records of ${other.name} have this ${by.name}, so it can't be told which is meant.`,
        });
    }
  }

  private async knownRecords(
    values: Map<string, Value>[],
    decided: Decided[],
  ): Promise<{ key: Value[]; before: Map<string, Value> }[][]> {
    const { plan, table, view, visit } = this;
    const none = values.map(() => []);
    if (plan.key === null) return none;
    const column = findColumn(table, plan.key)!;
    const filled = values.flatMap((row, at) => ((row.get(column.name) ?? null) === null ? [] : [at]));
    const byKey = table.key.map((part) => findColumn(table, part)!);
    const paths = this.columns.map((each) => [each.column]);
    let cells: Cells | null = null;
    const rows = await matching(
      this.runner,
      view,
      filled.map((at) => values[at]!.get(column.name)!),
      column,
      () => {
        const tables = new Tables(visit.catalogue, table);
        cells = new Cells(paths, visit.catalogue, tables, view);
        return {
          tables,
          asked: view.asked(tables, [], table, column.name),
          where: view.rows(tables),
          selected: [...byKey.map((part) => sql`${tables.root}.${name(part.name)}`), ...cells.selected],
        };
      },
    );
    const known: { key: Value[]; before: Map<string, Value> }[][] = none;
    filled.forEach((at, i) => {
      known[at] = rows[i]!.map((row) => ({
        key: byKey.map((part, j) => decode(part, row[j])),
        before: new Map(Object.entries(cells!.read(row, byKey.length).values)),
      }));
    });
    decided.forEach((one, at) => {
      const value = values[at]!.get(column.name) ?? null;
      if (value === null && !column.automatic && one.reasons.length === 0)
        one.reasons.push({ column: column.name, reason: "Without it the record can't be told apart. Fill it in." });
    });
    return known;
  }

  private decideOne(
    row: string[],
    values: Map<string, Value>,
    known: { key: Value[]; before: Map<string, Value> }[],
    one: Decided,
  ): void {
    const { plan, table } = this;
    const refuse = (column: string, reason: string) => one.reasons.push({ column, reason });
    if (plan.key !== null && values.get(plan.key) !== null && this.stoodBefore(plan.key, values.get(plan.key)!)) {
      refuse(plan.key, 'This stands in an earlier record of the file too.');
      return;
    }
    if (known.length > 1) {
      refuse(plan.key!, `${known.length} records have this, so it can't be told which is meant.`);
      return;
    }
    const [found] = known;
    if (!found) {
      if (plan.unknown === 'refuse')
        refuse(plan.key ?? plan.columns[0]!.column, 'There is no such record, and new ones are not to be added.');
      for (const [column, value] of values) this.refuseEmpty(column, value, refuse);
      const missing = neededColumns(table).filter((column) => !values.has(column) && !this.isStamped(column));
      for (const column of missing) refuse(column, "A new record needs this, and the file doesn't bring it.");
      this.refuseClosed(
        'create',
        [...values.keys()].filter((column) => values.get(column) !== null),
        refuse,
      );
      one.what = {
        kind: 'add',
        values: new Map(
          [...values].filter(([column, value]) => value !== null || !findColumn(table, column)!.hasDefault),
        ),
      };
      return;
    }
    const changes = [...values].filter(
      ([column, value], place) =>
        column !== plan.key &&
        !table.key.includes(column) &&
        !(row[place] === '' && plan.empty === 'keep') &&
        !sameValue(value, found.before.get(column) ?? null),
    );
    if (changes.length === 0) {
      one.what = { kind: 'same' };
      return;
    }
    if (plan.known === 'refuse')
      refuse(plan.key!, 'The record is there already, and known ones are not to be changed.');
    for (const [column, value] of changes) this.refuseEmpty(column, value, refuse);
    this.refuseClosed(
      'edit',
      changes.map(([column]) => column),
      refuse,
    );
    one.what = {
      kind: 'change',
      key: found.key,
      id: recordId(found.key),
      known: values.get(plan.key!) ?? null,
      before: new Map(changes.map(([column]) => [column, found.before.get(column) ?? null])),
      after: new Map(changes),
    };
  }

  /** What a ceiling closes to builders too; others learn it when each record is tried. */
  private refuseClosed(
    operation: 'create' | 'edit',
    columns: string[],
    refuse: (column: string, reason: string) => void,
  ): void {
    if (this.visit.person.kind !== 'builder') return;
    const open = operation === 'create' ? this.rights.fills : this.rights.edit.rows.length > 0 && this.rights.changes;
    if (!open)
      refuse(
        this.plan.key ?? this.columns[0]!.column,
        operation === 'create' ? "New records can't be made in this table." : "Records of this table can't be changed.",
      );
    else
      for (const column of columns)
        if (!open.has(column))
          refuse(column, operation === 'create' ? "This can't be filled in a new record." : "This can't be changed.");
  }

  /** Whether the server fills it by itself, of members: builders bring records as they are. */
  private isStamped(column: string): boolean {
    const { definition, person } = this.visit;
    const isStart = definition.lifecycles?.some(
      (each) => each.table === this.table.name && each.column === column && each.start !== undefined,
    );
    return this.rights.stamps(column) || (isStart === true && person.kind !== 'builder');
  }

  private refuseEmpty(column: string, value: Value, refuse: (column: string, reason: string) => void): void {
    const known = findColumn(this.table, column)!;
    if (value === null && isNeeded(known)) refuse(column, 'This needs a value.');
  }

  private stoodBefore(column: string, value: Value): boolean {
    const seen = this.seen.get(column) ?? new Set<string>();
    this.seen.set(column, seen);
    const key = sameKey(findColumn(this.table, column)!, value);
    const before = seen.has(key);
    seen.add(key);
    return before;
  }

  /**
   * Values that may stand in one record only: neither in another of the table nor twice in the file. Others than
   * builders learn of it by trying.
   */
  private async refuseTaken(decided: Decided[]): Promise<void> {
    const { table, visit, view } = this;
    if (visit.person.kind !== 'builder') return;
    const single = table.key.length === 1 ? table.key[0] : undefined;
    for (const { known: column } of this.columns) {
      if (column.name === this.plan.key || !(column.unique || column.name === single)) continue;
      const asking = decided.flatMap((one) => {
        const value =
          one.reasons.length > 0
            ? undefined
            : one.what.kind === 'add'
              ? one.what.values.get(column.name)
              : one.what.kind === 'change'
                ? one.what.after.get(column.name)
                : undefined;
        return value === undefined || value === null ? [] : [{ one, value }];
      });
      const byKey = table.key.map((part) => findColumn(table, part)!);
      const rows = await matching(
        this.runner,
        view,
        asking.map(({ value }) => value),
        column,
        () => {
          const tables = new Tables(visit.catalogue, table);
          return {
            tables,
            asked: view.asked(tables, [], table, column.name),
            where: yes,
            selected: byKey.map((part) => sql`${tables.root}.${name(part.name)}`),
          };
        },
      );
      asking.forEach(({ one, value }, i) => {
        const own = one.what.kind === 'change' ? one.what.id : null;
        if (this.stoodBefore(column.name, value))
          one.reasons.push({ column: column.name, reason: 'This stands in an earlier record of the file too.' });
        else if (rows[i]!.some((row) => recordId(byKey.map((part, j) => decode(part, row[j]))) !== own))
          one.reasons.push({ column: column.name, reason: 'This value is already taken. Choose another.' });
      });
    }
  }
}
