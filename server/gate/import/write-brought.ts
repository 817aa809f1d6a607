import { comma, bound, joined, name, sql, type Sql, type SqlValue } from '../../../core/sql/sql';
import type { Table } from '../../../core/table/catalogue';
import type { Value } from '../../../core/table/value';
import { DatabaseRefusal } from '../../sources/refusal';
import type { Transaction } from '../../sources/source';
import type { Decided } from './bring-outcome';
import { createIn } from '../write/create';
import { editIn } from '../write/edit';
import { Conflict, InvalidValues, NotFound, Refused } from '../view/errors';
import { storedTable } from '../view/tables';
import type { Visit } from '../view/visit';
import { attempting } from '../write/transaction-log';
import { readableError } from '../write/write';
import type { Dialect } from '../../../core/dialect/dialect';

/** For the builder, who may write every row: many at once. Those that the database refuses are found one by one. */
export async function writeTogether(
  runner: Transaction,
  table: Table,
  dialect: Dialect,
  decided: Decided[],
): Promise<void> {
  const sound = decided.filter((one) => one.reasons.length === 0);
  for (const [statement, group] of statements(table, sound)) {
    const params = group.map(({ values }) => values.map((value) => dialect.value(value)));
    try {
      await runner.attempt(async () => {
        await runner.many(statement, params);
        return true;
      });
    } catch (error) {
      if (!(error instanceof DatabaseRefusal)) throw error;
      for (const [i, { one, columns }] of group.entries()) {
        try {
          await runner.attempt(async () => {
            await runner.many(statement, [params[i]!]);
            return true;
          });
        } catch (each) {
          refuseLate(one, readableError(each, table, columns), columns);
        }
      }
    }
  }
}

/** One statement for each set of columns, with the records that it is for. */
function statements(table: Table, sound: Decided[]): Map<Sql, { one: Decided; columns: string[]; values: Value[] }[]> {
  const bySet = new Map<string, Sql>();
  const groups = new Map<Sql, { one: Decided; columns: string[]; values: Value[] }[]>();
  for (const one of sound) {
    const { what } = one;
    if (what.kind !== 'add' && what.kind !== 'change') continue;
    const columns = [...(what.kind === 'add' ? what.values : what.after).keys()];
    const key = `${what.kind} ${columns.join('\n')}`;
    let statement = bySet.get(key);
    if (!statement) {
      const none: SqlValue = null;
      statement =
        what.kind === 'add'
          ? sql`INSERT INTO ${storedTable(table)} (${joined(
              columns.map((column) => name(column)),
              comma,
            )}) VALUES (${joined(
              columns.map(() => bound(none)),
              comma,
            )})`
          : sql`UPDATE ${storedTable(table)} SET ${joined(
              columns.map((column) => sql`${name(column)} = ${bound(none)}`),
              comma,
            )} WHERE ${joined(
              table.key.map((column) => sql`${name(column)} = ${bound(none)}`),
              sql` AND `,
            )}`;
      bySet.set(key, statement);
      groups.set(statement, []);
    }
    groups.get(statement)!.push({
      one,
      columns,
      values: what.kind === 'add' ? [...what.values.values()] : [...what.after.values(), ...what.key],
    });
  }
  return groups;
}

/** For everyone else: each record as if it were made or changed by hand, with all that the policy asks. */
export async function writeEach(runner: Transaction, visit: Visit, table: Table, decided: Decided[]): Promise<void> {
  for (const one of decided) {
    const { what } = one;
    if (one.reasons.length > 0 || (what.kind !== 'add' && what.kind !== 'change')) continue;
    try {
      await attempting(runner, async () => {
        if (what.kind === 'add') await createIn(runner, visit, table.name, Object.fromEntries(what.values));
        else
          await editIn(
            runner,
            visit,
            table.name,
            what.id,
            Object.fromEntries([...what.after].map(([column, to]) => [column, { from: what.before.get(column), to }])),
          );
        return true;
      });
    } catch (error) {
      refuseLate(one, error, [...(what.kind === 'add' ? what.values : what.after).keys()]);
      // Looking already did all that writing does, so this is not new.
      one.late = false;
    }
  }
}

/** What came up when the record was written, as reasons beside its cells. Faults that are no refusal go on. */
function refuseLate(one: Decided, error: unknown, columns: string[]): void {
  const first = columns[0] ?? '';
  const fields = error instanceof InvalidValues || error instanceof Refused ? Object.entries(error.fields) : [];
  if (fields.length > 0) one.reasons.push(...fields.map(([column, reason]) => ({ column, reason })));
  else if (
    error instanceof InvalidValues ||
    error instanceof Refused ||
    error instanceof NotFound ||
    error instanceof Conflict
  )
    one.reasons.push({ column: first, reason: error.message });
  else if (error instanceof DatabaseRefusal)
    one.reasons.push({ column: first, reason: 'The database refuses this record.' });
  else throw error;
  one.late = true;
}
