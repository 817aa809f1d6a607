import { act, create, edit, InvalidValues, NotFound, Refused, list, remove, type Visit } from '../../server/gate/gate';
import { Client } from 'pg';
import { contextOf, type Person } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Action } from '../../core/definition/action';
import type { Catalogue } from '../../core/table/catalogue';
import type { Row } from '../../core/table/value';
import type { Source } from '../../server/sources/source';
import { actionPolicies, actorRoles, randomActions } from './judged-actions';
import { plainCell } from './plain-cells';
import { factSettings, literal, policies, tables } from './postgres-rules';
import { makeScenario, roles, today, withColumns, type Scenario } from './scenario';

/** What came of an attempt on one record. `held`: other records point to it. */
type Outcome = 'done' | 'untouched' | 'refused' | 'held' | 'no such record';

type Attempts = Record<string, Outcome>;

const trial = { trial: true };

export interface Difference {
  seed: number;
  person: Person;
  table: string;
  operation: string;
  ours: unknown;
  judge: unknown;
}

/** Roles are the server's, so one for each set of roles is made once. */
export async function makeRoles(postgres: Client): Promise<void> {
  for (const role of roles) await postgres.query(`CREATE ROLE ${role}`);
  await postgres.query(actorRoles.join(';\n'));
  for (let set = 0; set < 2 ** roles.length; set++) {
    await postgres.query(`CREATE ROLE p${set}`);
    for (const role of roles.filter((_, i) => set & (1 << i))) await postgres.query(`GRANT ${role} TO p${set}`);
  }
}

/** Plays a scenario in both databases and compares; a case is one person, table and operation with all its records. */
export class Judge {
  cases = 0;
  cells = 0;
  /** How often each outcome came, so that a run that never refuses anything is noticed. */
  readonly outcomes: Record<string, number> = {};

  constructor(
    private readonly source: Source,
    /** Makes the scenario's tables where our gate reads them, and reads the catalogue from there. */
    private readonly loadOurs: (scenario: Scenario) => Promise<Catalogue>,
    private readonly postgres: Client,
  ) {}

  async play(seed: number): Promise<Difference[]> {
    const scenario = makeScenario(seed);
    const actions = randomActions(scenario);
    const catalogue = await this.load(scenario, actions);
    const differences: Difference[] = [];
    for (const person of scenario.persons) {
      const visit: Visit = {
        definition: { ...scenario.definition, actions },
        catalogue,
        person,
        moment: new Date(`${today}T12:00:00Z`),
      };
      for (const { name } of scenario.catalogue.tables.filter((table) => table.name !== 'people')) {
        const compare = (operation: string, ours: unknown, judge: unknown): void => {
          this.cases++;
          if (JSON.stringify(ours) !== JSON.stringify(judge))
            differences.push({ seed, person, table: name, operation, ours, judge });
        };
        compare('see', await this.seen(visit, name), await this.seenByJudge(visit, name, person.roles));
        compare('edit', await this.edits(visit, scenario, name), await this.editsByJudge(visit, scenario, name));
        compare('create', await this.creates(visit, scenario, name), await this.createsByJudge(visit, scenario, name));
        compare('act', await this.acts(visit, scenario, name), await this.actsByJudge(visit, scenario, name));
        compare('delete', await this.deletes(visit, scenario, name), await this.deletesByJudge(visit, scenario, name));
      }
    }
    differences.push(...(await this.judgeCells(scenario, catalogue)));
    return differences;
  }

  private async load(scenario: Scenario, actions: Action[]): Promise<Catalogue> {
    await this.postgres.query(
      [
        'DROP SCHEMA public CASCADE',
        'CREATE SCHEMA public',
        'GRANT USAGE ON SCHEMA public TO PUBLIC',
        ...tables(scenario),
        ...policies(scenario),
        ...actionPolicies(scenario, actions),
      ].join(';\n'),
    );
    return this.loadOurs(scenario);
  }

  private note<T extends Outcome>(outcome: T): T {
    this.outcomes[outcome] = (this.outcomes[outcome] ?? 0) + 1;
    return outcome;
  }

  /** Runs as the person in PostgreSQL and takes everything back. */
  private async asPerson<T>(visit: Visit, held: string[], work: () => Promise<T>, acting?: number): Promise<T> {
    const { facts } = contextOf(visit.person, visit.moment, 'UTC');
    const set = roles.reduce((bits, role, i) => bits | (held.includes(role) ? 1 << i : 0), 0);
    await this.postgres.query('BEGIN');
    try {
      await this.postgres.query(
        `SELECT ${factSettings(facts)
          .map(([name, value]) => `set_config('${name}', ${literal(value)}, TRUE)`)
          .join(', ')}`,
      );
      await this.postgres.query(`SET LOCAL ROLE ${acting === undefined ? `p${set}` : `s${set}_${acting}`}`);
      return await work();
    } finally {
      await this.postgres.query('ROLLBACK');
    }
  }

  private async attempt(statement: string): Promise<'done' | 'untouched' | 'refused' | 'held'> {
    await this.postgres.query('SAVEPOINT attempt');
    try {
      return (await this.postgres.query(statement)).rowCount === 1 ? 'done' : 'untouched';
    } catch (error) {
      const { code } = error as { code?: string };
      if (code === '42501') return 'refused';
      if (code === '23503') return 'held';
      throw error;
    } finally {
      await this.postgres.query('ROLLBACK TO SAVEPOINT attempt');
    }
  }

  private async seen(visit: Visit, table: string): Promise<number[]> {
    try {
      const answer = await list(this.source, visit, table, {
        columns: [],
        sort: [],
        where: [],
        search: '',
        after: null,
        before: null,
        size: 200,
      });
      return answer.records.map((record) => Number(record.id));
    } catch (error) {
      if (error instanceof NotFound) return [];
      throw error;
    }
  }

  private seenByJudge(visit: Visit, table: string, held: string[]): Promise<number[]> {
    return this.asPerson(visit, held, async () =>
      (await this.postgres.query<{ id: number }>(`SELECT id FROM ${table} ORDER BY id`)).rows.map((row) => row.id),
    );
  }

  private async edits(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    const outcomes: Attempts = {};
    for (const row of scenario.rows[table]!) {
      const changes = Object.fromEntries(
        Object.entries(scenario.attempts[table]!.change).map(([column, to]) => [column, { from: row[column], to }]),
      );
      // PostgreSQL asks of the new row, too, that its maker sees it; with us the keep-in rule alone decides. Where the
      // record leaves the view it refuses.
      outcomes[String(row.id)] = this.note(
        await ours(async () =>
          (await edit(this.source, visit, table, String(row.id), changes, { trial: true })) ? 'done' : 'refused',
        ),
      );
    }
    return outcomes;
  }

  private editsByJudge(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    const { change } = scenario.attempts[table]!;
    return this.asPerson(visit, visit.person.roles, async () => {
      const outcomes: Attempts = {};
      const foreign = await this.pointsOutside(scenario, table, change);
      for (const { id } of scenario.rows[table]!) {
        const outcome = await this.attempt(
          `UPDATE ${table} SET ${Object.entries(change)
            .map(([column, to]) => `${column} = ${literal(to)}`)
            .join(', ')} WHERE id = ${String(id)}`,
        );
        outcomes[String(id)] = foreign && outcome !== 'untouched' ? 'no such record' : outcome;
      }
      return outcomes;
    });
  }

  /**
   * A relation may only be set to a record in view: PostgreSQL's foreign keys don't ask that, so its own SELECT does
   * here.
   */
  private async pointsOutside(scenario: Scenario, table: string, values: Row): Promise<boolean> {
    for (const relation of scenario.catalogue.tables.find((each) => each.name === table)!.relations) {
      const key = values[relation.column];
      if (key === undefined || key === null) continue;
      if ((await this.postgres.query(`SELECT 1 FROM ${relation.table} WHERE id = ${String(key)}`)).rowCount === 0)
        return true;
    }
    return false;
  }

  private async creates(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    const outcomes: Attempts = {};
    for (const row of scenario.attempts[table]!.made) {
      const outcome = await ours(async () => {
        await create(this.source, visit, table, row, { trial: true });
        return 'done';
      });
      outcomes[String(row.id)] = this.note(outcome === 'untouched' ? 'refused' : outcome);
    }
    return outcomes;
  }

  private createsByJudge(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    const may = visit.person.roles.some((role) => visit.definition.access[table]?.[role]?.create);
    return this.asPerson(visit, visit.person.roles, async () => {
      const outcomes: Attempts = {};
      for (const row of scenario.attempts[table]!.made) {
        const foreign = may && (await this.pointsOutside(scenario, table, row));
        const outcome = await this.attempt(
          `INSERT INTO ${table} (${Object.keys(row).join(', ')}) VALUES ` +
            `(${Object.values(row).map(literal).join(', ')})`,
        );
        outcomes[String(row.id)] = foreign ? 'no such record' : outcome;
      }
      return outcomes;
    });
  }

  /** How often an action was done, so that a run in which none ever is is noticed. */
  acted = 0;

  private async acts(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    const outcomes: Attempts = {};
    for (const { id } of scenario.rows[table]!)
      outcomes[String(id)] = this.note(
        await ours(async () => {
          try {
            const { record } = await act(this.source, visit, table, String(id), `act-${table}`, { asked: {} }, trial);
            if (record) this.acted++;
            return record ? 'done' : 'refused';
          } catch (error) {
            // Where its condition doesn't hold PostgreSQL changes nothing, and says nothing.
            if (error instanceof Refused && /with this record now/.test(error.message)) return 'untouched';
            throw error;
          }
        }),
      );
    return outcomes;
  }

  /** By each of the person's roles in turn, of which none lends another its conditions; the best of all counts. */
  private async actsByJudge(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    const { change } = scenario.attempts[table]!;
    const set = Object.entries(change).map(([column, to]) => `${column} = ${literal(to)}`);
    const best: Attempts = Object.fromEntries(scenario.rows[table]!.map(({ id }) => [String(id), 'untouched']));
    const ways = roles.flatMap((role, i) => (visit.person.roles.includes(role) ? [i] : []));
    for (const way of ways.filter((i) => this.mayAct(visit, table, roles[i]!)))
      await this.asPerson(
        visit,
        visit.person.roles,
        async () => {
          for (const id of Object.keys(best)) {
            const outcome = await this.attempt(`UPDATE ${table} SET ${set.join(', ')} WHERE id = ${id}`);
            if (outcome === 'done' || best[id] === 'untouched') best[id] = outcome;
          }
        },
        way,
      );
    return best;
  }

  private mayAct({ definition }: Visit, table: string, role: string): boolean {
    const action = definition.actions!.find((each) => each.table === table)!;
    return action.roles.includes(role) && definition.access[table]?.[role]?.see !== undefined;
  }

  private async deletes(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    const outcomes: Attempts = {};
    for (const { id } of scenario.rows[table]!) {
      outcomes[String(id)] = this.note(
        await ours(async () => {
          await remove(this.source, visit, table, String(id), {}, { trial: true });
          return 'done';
        }),
      );
    }
    return outcomes;
  }

  private deletesByJudge(visit: Visit, scenario: Scenario, table: string): Promise<Attempts> {
    return this.asPerson(visit, visit.person.roles, async () => {
      const outcomes: Attempts = {};
      for (const { id } of scenario.rows[table]!)
        outcomes[String(id)] = await this.attempt(`DELETE FROM ${table} WHERE id = ${String(id)}`);
      return outcomes;
    });
  }

  /**
   * Cell by cell: PostgreSQL says which rows each role alone would see, the plain reading of columns and masks does the
   * rest.
   */
  private async judgeCells(scenario: Scenario, catalogue: Catalogue): Promise<Difference[]> {
    const definition: PortalDefinition = withColumns(scenario);
    const differences: Difference[] = [];
    for (const person of scenario.persons) {
      const visit: Visit = { definition, catalogue, person, moment: new Date(`${today}T12:00:00Z`) };
      for (const table of catalogue.tables.filter((each) => each.name !== 'people')) {
        const byRole = new Map<string, Set<number>>();
        for (const role of person.roles) byRole.set(role, new Set(await this.seenByJudge(visit, table.name, [role])));
        const columns = table.columns.map((column) => column.name);
        const expected = scenario.rows[table.name]!.filter((row) =>
          [...byRole.values()].some((ids) => ids.has(Number(row.id))),
        ).map((row) => ({
          id: String(row.id),
          cells: columns.map((column) =>
            plainCell(
              definition,
              person,
              table.name,
              column,
              row[column]!,
              person.roles.filter((role) => byRole.get(role)!.has(Number(row.id))),
            ),
          ),
        }));
        const answer = await list(this.source, visit, table.name, {
          columns: columns.map((column) => [column]),
          sort: [],
          where: [],
          search: '',
          after: null,
          before: null,
          size: 200,
        }).catch((error: unknown) => {
          if (error instanceof NotFound) return { records: [] };
          throw error;
        });
        const got = answer.records.map((record) => ({
          id: record.id,
          cells: columns.map((column) =>
            column in record.values
              ? [record.masked.includes(column) ? 'masked' : 'shown', record.values[column]]
              : ['hidden'],
          ),
        }));
        this.cells += expected.length * columns.length;
        if (JSON.stringify(got) !== JSON.stringify(expected))
          differences.push({
            seed: scenario.seed,
            person,
            table: table.name,
            operation: 'cells',
            ours: got,
            judge: expected,
          });
      }
    }
    return differences;
  }
}

async function ours(work: () => Promise<Outcome>): Promise<Outcome> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof NotFound) return 'untouched';
    if (error instanceof InvalidValues) return 'no such record';
    if (!(error instanceof Refused)) throw error;
    if (error.message.startsWith('Other records')) return 'held';
    return error.message.startsWith('You may not') ? 'untouched' : 'refused';
  }
}
