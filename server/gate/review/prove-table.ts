import { visibleColumns } from '../../../core/access/view';
import { compareText, isComparableCollation } from '../../../core/condition/collation';
import type { Comparison, Condition, Operand } from '../../../core/condition/tree';
import { printPath } from '../../../core/definition/path';
import type { Random } from '../../../core/proof/random';
import { keyOfRow, type ExpectedCell, type ExpectedView } from '../../../core/proof/expected';
import { isUnjudged, type HeldRows } from '../../../core/proof/held-rows';
import { findColumn, findTable, type Catalogue, type Column, type Table } from '../../../core/table/catalogue';
import { sameValue, type Row, type Value } from '../../../core/table/value';
import type { Runner } from '../../sources/source';
import { exportRows } from '../read/export';
import { list, type ListQuestion } from '../read/list';
import { read } from '../read/read';
import { NotFound } from '../view/errors';
import { recordId } from '../view/record-id';
import type { PlacedVisit } from '../view/visit';
import { asking, noteDifference, type Proof, type ProofKind } from './proof';

const everything: Omit<ListQuestion, 'columns' | 'size'> = {
  sort: [],
  where: [],
  search: '',
  after: null,
  before: null,
};

/** What one person is asked about one table. */
export class AtTable {
  private sorted: Row[] | null = null;
  private readonly paths: string[][];
  constructor(
    private readonly runner: Runner,
    private readonly visit: PlacedVisit,
    private readonly table: Table,
    private readonly expected: ExpectedView,
    private readonly held: HeldRows,
    private readonly chance: Random,
    private readonly proof: Proof,
  ) {
    this.paths = pathsFrom(held.catalogue, table);
  }

  async ask(): Promise<void> {
    const kind = this.chance.pick(asking);
    const { questions } = this.proof;
    try {
      await this[kind]();
      questions[kind]++;
    } catch (error) {
      if (!isUnjudged(error)) throw error;
      this.proof.unjudged++;
    }
  }

  private get rows(): Row[] {
    this.sorted ??= this.inOrder(this.expected.rows(this.table));
    return this.sorted;
  }

  private inOrder(rows: Row[]): Row[] {
    return isSorted(this.table) ? rows.sort(byKey(this.table)) : rows;
  }

  private some(): string[][] {
    return this.chance.sample(this.paths, this.chance.int(1, 6));
  }

  private async list(where: Condition[] = [], rows: Row[] = this.rows, kind: ProofKind = 'list'): Promise<void> {
    const columns = this.some();
    const size = this.chance.int(1, 20);
    let after: string | null = null;
    for (let at = 0, pages = this.chance.int(1, 2); pages > 0; pages--) {
      const question: ListQuestion = { ...everything, columns, size, where, after };
      const answer = await list(this.runner, this.visit, this.table.name, question).catch(unlessNotFound);
      if (answer === null || answer.total !== rows.length)
        if (answer !== null || rows.length > 0)
          this.differs(kind, null, null, `${rows.length} records by core, ${answer?.total ?? 'no table'} by the gate`);
      if (answer === null) return;
      const page = this.table.key.length > 0 ? this.pageOf(rows, at, size, answer.records) : [];
      this.sameRecords(kind, columns, page, answer.records, false);
      at += size;
      after = answer.next;
      if (after === null) return;
    }
  }

  /** The rows that a page must have; where their order isn't known those that it has and that are in the view. */
  private pageOf(rows: Row[], at: number, size: number, records: readonly { id: string | null }[]): Row[] {
    if (isSorted(this.table)) return rows.slice(at, at + size);
    const byId = new Map(rows.map((row) => [recordId(keyOfRow(this.table, row)), row]));
    return records.flatMap(({ id }) => {
      const row = byId.get(id ?? '');
      return row ? [row] : [];
    });
  }

  private async filter(): Promise<void> {
    const where = this.anyCondition();
    if (!where) return this.list();
    return this.list(
      [where],
      this.rows.filter((row) => this.expected.holds(where, this.table, row)),
      'filter',
    );
  }

  /** A comparison of a column that is shown wherever a record is, with what stands there somewhere. */
  private anyCondition(): Condition | null {
    const columns = this.expected
      .plainColumns(this.table)
      .map((name) => findColumn(this.table, name)!)
      .filter(({ type }) => ['whole number', 'number', 'text', 'date', 'one choice', 'yes/no'].includes(type));
    if (columns.length === 0) return null;
    const column = this.chance.pick(columns);
    const left = { kind: 'column' as const, path: [column.name] };
    const rows = this.held.rows(this.table.name);
    const value = rows.length === 0 ? null : (this.chance.pick(rows)[column.name] ?? null);
    const right = value === null ? null : constantOf(column.type, value);
    if (right === null) return { kind: 'null', left };
    const only = ['one choice', 'yes/no'].includes(column.type);
    const comparison: Comparison = only ? '=' : this.chance.pick(['=', '<>', '<', '<=', '>', '>=']);
    return { kind: 'compare', left, comparison, right };
  }

  private async record(): Promise<void> {
    const all = this.chance.next() < 0.5 && this.rows.length > 0 ? this.rows : this.held.rows(this.table.name);
    if (all.length === 0 || this.table.key.length === 0) return this.list();
    const row = this.chance.pick(all);
    const id = recordId(keyOfRow(this.table, row));
    const found = await read(this.runner, this.visit, this.table.name, id).catch(unlessNotFound);
    const rights = this.expected.rights(this.table, row);
    if ((found !== null) !== rights.inView)
      return this.differs(
        'record',
        id,
        null,
        found ? 'open by the gate, not by core' : 'open by core, not by the gate',
      );
    if (!found) return;
    const columns = visibleColumns(this.expected.view(this.table)).map((name) => [name]);
    this.sameCells('record', id, columns, row, found, false);
    const written = (names: ReadonlySet<string>) => [...names].map((name) => printPath([name])).sort();
    const may: [string, unknown, unknown][] = [
      ['changed', written(rights.editable.shown), [...found.editable].sort()],
      ['replaced', written(rights.editable.unseen), [...found.replaceable].sort()],
      ['deleted', rights.deletable, found.deletable],
    ];
    for (const [what, core, gate] of may)
      if (JSON.stringify(core) !== JSON.stringify(gate))
        this.differs('record', id, null, `what of it may be ${what} is another thing by core than by the gate`);
  }

  private async file(): Promise<void> {
    const columns = this.some();
    const view = this.expected.view(this.table, true);
    const rows = this.inOrder(this.expected.rows(this.table, true));
    // A long file would be most of the run.
    if (rows.length > 200) return this.list();
    const question = { columns, sort: [], where: [], search: '' };
    const records: { values: Record<string, Value>; masked: string[]; id: null }[] = [];
    try {
      for await (const page of exportRows(this.runner, this.visit, this.table.name, question, () => rows.length + 10))
        for (const { cells, masked } of page.records)
          records.push({
            id: null,
            values: Object.fromEntries(
              page.columns.flatMap((path, i) => (cells[i] === undefined ? [] : [[path, cells[i]]])),
            ),
            masked: masked.map((i) => page.columns[i]!),
          });
    } catch (error) {
      if (!(error instanceof NotFound)) throw error;
      if (view.lenses.length > 0) this.differs('file', null, null, 'may be taken out by core, not by the gate');
      return;
    }
    if (view.lenses.length === 0) return this.differs('file', null, null, 'may be taken out by the gate, not by core');
    if (records.length !== rows.length)
      this.differs('file', null, null, `${rows.length} records by core, ${records.length} by the gate`);
    this.sameRecords('file', columns, isSorted(this.table) ? rows : [], records, true);
  }

  private sameRecords(
    kind: ProofKind,
    columns: string[][],
    rows: readonly Row[],
    records: readonly { id: string | null; values: Record<string, Value>; masked: string[] }[],
    taking: boolean,
  ): void {
    if (rows.length > records.length) this.differs(kind, null, null, 'a record is missing');
    for (const [i, row] of rows.entries()) {
      const id = recordId(keyOfRow(this.table, row));
      const record = records[i];
      if (!record || (record.id !== null && record.id !== id))
        return this.differs(kind, id, null, 'another record stands in its place');
      this.sameCells(kind, id, columns, row, record, taking);
    }
  }

  private sameCells(
    kind: ProofKind,
    id: string,
    columns: string[][],
    row: Row,
    { values, masked }: { values: Record<string, Value>; masked: readonly string[] },
    taking: boolean,
  ): void {
    for (const path of columns) {
      const text = printPath(path);
      const cell = this.expected.cell(this.table, row, path, taking);
      this.proof.cells++;
      if (!isSame(cell, values[text], masked.includes(text)))
        this.differs(kind, id, text, `${cell.is} by core, ${isOf(values[text], masked.includes(text))} by the gate`);
    }
  }

  private differs(kind: ProofKind, id: string | null, path: string | null, says: string): void {
    noteDifference(this.proof, { kind, person: this.visit.person.id, table: this.table.name, id, path, says });
  }
}

const isOf = (value: Value | undefined, masked: boolean): string =>
  value === undefined ? 'hidden' : masked ? 'masked, or masked otherwise,' : 'shown, or another value,';

function isSame(cell: ExpectedCell, value: Value | undefined, masked: boolean): boolean {
  switch (cell.is) {
    case 'hidden':
      return value === undefined;
    case 'nothing':
      return value === undefined || value === null;
    case 'masked':
      return masked && value !== undefined && value === cell.value;
    case 'shown':
      return !masked && value !== undefined && sameValue(value, cell.value);
  }
}

const unlessNotFound = (error: unknown): null => {
  if (error instanceof NotFound) return null;
  throw error;
};

/** Columns of the table, and along relations for two steps. */
function pathsFrom(catalogue: Catalogue, table: Table, steps = 2): string[][] {
  const along = steps === 0 ? [] : table.relations;
  return [
    ...table.columns.map(({ name }) => [name]),
    ...along.flatMap(({ name, table: to }) => {
      const next = findTable(catalogue, to);
      return next ? pathsFrom(catalogue, next, steps - 1).map((path) => [name, ...path]) : [];
    }),
  ];
}

/** A value of a column as it stands in a condition; null for one that no constant says whole. */
function constantOf(type: Column['type'], value: Value): Operand | null {
  switch (type) {
    case 'whole number':
      return { kind: 'number', digits: String(value) };
    case 'number':
      return Number.isFinite(value) && !/e/i.test(String(value)) ? { kind: 'number', digits: String(value) } : null;
    case 'yes/no':
      return { kind: 'boolean', value: value === true };
    default:
      return { kind: 'text', text: String(value) };
  }
}

/** Whether the database sorts the key as memory does. */
const isSorted = (table: Table): boolean =>
  table.key.length > 0 &&
  table.key.every((name) => {
    const { type, collation, read } = findColumn(table, name)!;
    if (type === 'text') return read === undefined && collation !== undefined && isComparableCollation(collation);
    return ['whole number', 'date', 'date and time'].includes(type);
  });

/** By the key, as the database sorts it. */
function byKey(table: Table): (a: Row, b: Row) => number {
  const columns = table.key.map((name) => findColumn(table, name)!);
  return (a, b) => {
    for (const { name, collation } of columns) {
      const [left, right] = [a[name]!, b[name]!];
      const sign =
        collation !== undefined
          ? compareText(collation, String(left), String(right))
          : left < right
            ? -1
            : left > right
              ? 1
              : 0;
      if (sign !== 0) return sign;
    }
    return 0;
  };
}
