import { explain, explainRows, type Explanation, type RowsExplanation } from '../../core/access/explain';
import { sql } from '../../core/condition/sql';
import { findTable } from '../../core/table/catalogue';
import type { Source, Transaction } from '../sources/source';
import { insert } from './create';
import { NotFound } from './errors';
import { keyIs, readRecordId } from './record-id';
import { ViewSql, type Visit } from './view-sql';
import { readForWhy } from './why';
import { assignments, readValues, stamped, writing } from './write';
import { storedTable } from './tables';

/** Why a write is allowed or refused: the record before it, and the keep-in rule and fences of each role on what it makes of it. */
export interface WriteExplanation {
  /** Null for a new record. */
  before: Explanation | null;
  after: { role: string; mayFill: Record<string, boolean>; keepIn: RowsExplanation }[];
}

/** Why the visit's person may or may not change a record so. For builders: the change is made whoever may, looked at, and taken back. */
export async function whyChange(source: Source, visit: Visit, tableName: string, id: string, to: Record<string, unknown>): Promise<WriteExplanation> {
  const view = new ViewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  const key = table && readRecordId(table, id);
  if (!table || !key || !Object.keys(to).every((column) => table.columns.some((each) => each.name === column))) throw new NotFound();
  const rules = view.view(table);
  return writing(source, visit, { trial: true }, async (runner) => {
    const record = await readForWhy(runner, visit, view, rules, table, key);
    if (!record) throw new NotFound();
    const before = explain(visit.definition, visit.catalogue, rules, visit.person, record, view.context, null);
    const set = new Map([...readValues(table, Object.entries(to)), ...stamped(view, rules.lenses.flatMap((lens) => (lens.edit ? lens.stamps : [])), 'change')]);
    await runner.write(sql`UPDATE ${storedTable(table)} SET ${assignments(set, view.dialect)} WHERE ${keyIs(storedTable(table), table, key)}`);
    const changed = await readForWhy(runner, visit, view, rules, table, key);
    const after = rules.lenses.flatMap((lens) => (lens.edit && changed ? [{
      role: lens.role, mayFill: Object.fromEntries(Object.keys(to).map((column) => [column, lens.edit!.columns.has(column)])), keepIn: explainRows(lens.edit.keepIn, visit.catalogue, rules, changed, view.context),
    }] : []));
    return { before, after };
  });
}

/** Why the visit's person may or may not make such a record: it is made as each of their roles would, looked at, and taken back. */
export async function whyCreate(source: Source, visit: Visit, tableName: string, values: Record<string, unknown>): Promise<WriteExplanation> {
  const view = new ViewSql(visit);
  const table = findTable(visit.catalogue, tableName);
  if (!table || table.key.length === 0 || !Object.keys(values).every((column) => table.columns.some((each) => each.name === column))) throw new NotFound('table');
  const rules = view.view(table);
  return writing(source, visit, { trial: true }, async (runner: Transaction) => {
    const after: WriteExplanation['after'] = [];
    for (const lens of rules.lenses) {
      if (!lens.create) continue;
      await runner.attempt(async () => {
        const key = await insert(runner, visit, view, table, lens, readValues(table, Object.entries(values)));
        const made = await readForWhy(runner, visit, view, rules, table, key);
        if (made) after.push({ role: lens.role, mayFill: Object.fromEntries(Object.keys(values).map((column) => [column, lens.create!.columns.has(column)])), keepIn: explainRows(lens.create!.keepIn, visit.catalogue, rules, made, view.context) });
        return null;
      });
    }
    return { before: null, after };
  });
}
