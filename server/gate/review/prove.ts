import { Random } from '../../../core/proof/random';
import { ExpectedView, keyOfRow } from '../../../core/proof/expected';
import { HeldRows, isUnjudged } from '../../../core/proof/held-rows';
import { raw, sql } from '../../../core/sql/sql';
import type { Catalogue, Table } from '../../../core/table/catalogue';
import { sameValue, type Row, type Value } from '../../../core/table/value';
import type { Runner, Source } from '../../sources/source';
import { selectList } from '../view/cells';
import { decode } from '../view/decode';
import { keyIs, recordId } from '../view/record-id';
import { Tables } from '../view/tables';
import type { PlacedVisit } from '../view/visit';
import { tryWrite } from './prove-writes';
import { noteDifference, type Proof } from './proof';
import { AtTable } from './prove-table';

export interface ProofOptions {
  seed: number;
  /** How many questions are asked in all, about. */
  questions: number;
  /** No table with more rows is read. */
  largest: number;
  /** Whether writes are tried as well, and taken back. */
  writes: boolean;
  progress(done: number, total: number): Promise<void>;
}

/**
 * Asks random questions as everybody given, at least one, through the same ways as they would, and holds each answer
 * against what core works out in memory from the rows as they stand at the same moment: in one transaction, which
 * changes nothing. Writes are tried after it, each in a transaction of its own that is taken back.
 */
export async function prove(source: Source, visits: readonly PlacedVisit[], options: ProofOptions): Promise<Proof> {
  const run = await source.transaction(
    async (runner) => {
      const { catalogue } = visits[0]!;
      const { held, tooLarge } = await holdRows(runner, catalogue, options.largest);
      const asked = new Run(runner, held, options, visits.length, tooLarge);
      for (const visit of visits) await asked.as(visit);
      return asked;
    },
    { keep: false },
  );
  if (options.writes) await run.tryWrites(source, visits);
  return run.proof;
}

/** So many rows are held in all: a portal may have many tables. */
const mostHeld = 400_000;

/** Reads whole tables, the smaller ones first, as far as they are not too large, and not too many. */
export async function holdRows(
  runner: Runner,
  catalogue: Catalogue,
  largest: number,
): Promise<{ held: HeldRows; tooLarge: string[] }> {
  const sizes: { table: Table; size: number }[] = [];
  for (const table of catalogue.tables) {
    const some = sql`SELECT 1 AS one FROM ${new Tables(catalogue, table).sql()} LIMIT ${raw(String(largest + 1))}`;
    const [row] = await runner.rows(sql`SELECT COUNT(*) FROM (${some}) some`);
    sizes.push({ table, size: Number(row![0]) });
  }
  const rows = new Map<string, Row[]>();
  const tooLarge: string[] = [];
  let all = 0;
  for (const { table, size } of sizes.sort((a, b) => a.size - b.size)) {
    all += size;
    if (size > largest || all > mostHeld) tooLarge.push(table.name);
    else rows.set(table.name, await rowsOf(runner, catalogue, table));
  }
  return { held: new HeldRows(catalogue, rows), tooLarge };
}

async function rowsOf(runner: Runner, catalogue: Catalogue, table: Table, key: Value[] | null = null): Promise<Row[]> {
  const tables = new Tables(catalogue, table);
  const where = key ? sql` WHERE ${keyIs(tables.root, table, key)}` : sql``;
  const found = await runner.rows(
    sql`SELECT ${selectList(table.columns.map((column) => tables.column([], column)))} FROM ${tables.sql()}${where}`,
  );
  return found.map((each) =>
    Object.fromEntries(table.columns.map((column, i) => [column.name, decode(column, each[i])])),
  );
}

/** One run: what is asked is drawn by chance from the seed, so that it can be asked again. */
class Run {
  readonly proof: Proof;
  private readonly chance: Random;
  private readonly each: number;
  private done = 0;

  constructor(
    private readonly runner: Runner,
    private readonly held: HeldRows,
    private readonly options: ProofOptions,
    people: number,
    tooLarge: string[],
  ) {
    this.chance = new Random(options.seed);
    const tables = held.catalogue.tables.length - tooLarge.length;
    this.each = Math.max(1, Math.round(options.questions / Math.max(1, people * tables)));
    this.proof = {
      seed: options.seed,
      people,
      questions: { list: 0, filter: 0, record: 0, file: 0, write: 0 },
      cells: 0,
      unjudged: 0,
      tooLarge,
      differences: [],
      differed: 0,
    };
  }

  async as(visit: PlacedVisit): Promise<void> {
    const expected = new ExpectedView(this.held, visit.definition, visit.person, visit.moment, visit.standIn ?? null);
    for (const table of this.held.catalogue.tables) {
      if (!this.held.holds(table.name)) continue;
      const asked = new AtTable(this.runner, visit, table, expected, this.held, this.chance, this.proof);
      for (let i = 0; i < this.each; i++) {
        await asked.ask();
        await this.options.progress(++this.done, this.options.questions);
      }
    }
  }

  /** A twentieth of what is asked. What was changed by others since the rows were read is not judged. */
  async tryWrites(source: Source, visits: readonly PlacedVisit[]): Promise<void> {
    const tables = this.held.catalogue.tables.filter((table) => this.held.holds(table.name));
    const most = Math.ceil(this.options.questions / 20);
    for (let i = 0; i < most && tables.length > 0; i++) {
      const visit = this.chance.pick(visits);
      const table = this.chance.pick(tables);
      const { definition, person, moment, standIn = null } = visit;
      const expected = new ExpectedView(this.held, definition, person, moment, standIn);
      try {
        const tried = await tryWrite(visit, table, expected, this.held, this.chance);
        const changed = tried.is === 'other' && !(await this.stands(source, table, tried.id));
        if (changed || tried.is === 'unjudged') this.proof.unjudged++;
        else this.proof.questions.write++;
        if (tried.is === 'other' && !changed)
          noteDifference(this.proof, { kind: 'write', person: person.id, table: table.name, ...tried });
      } catch (error) {
        if (!isUnjudged(error)) throw error;
        this.proof.unjudged++;
      }
      await this.options.progress(++this.done, this.options.questions + most);
    }
  }

  /** Whether a record is still as it was held. */
  private async stands(source: Source, table: Table, id: string): Promise<boolean> {
    const was = this.held.rows(table.name).find((row) => recordId(keyOfRow(table, row)) === id)!;
    const [is] = await rowsOf(source, this.held.catalogue, table, keyOfRow(table, was));
    return is !== undefined && Object.keys(was).every((name) => sameValue(was[name]!, is[name]!));
  }
}
