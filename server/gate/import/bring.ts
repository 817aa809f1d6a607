import { historyOf } from '../../../core/definition/history';
import type { Table } from '../../../core/table/catalogue';
import type { ImportPlan } from '../../../core/table/import-plan';
import type { Runner, Source, Transaction } from '../../sources/source';
import { Tally, BringChanged, BringRefused, type BringOutcome, type RefusedRow } from './bring-outcome';
import type { Visit } from '../view/visit';
import { Bringing, type FileRows } from './bringing';
import { atTable } from '../view/table-visit';
import { hasRules } from '../write/field-rules';
import { writing } from '../write/writing';
import { writeEach, writeTogether } from './write-brought';

export type { FileRows } from './bringing';

export interface BringOptions {
  /** Without it everything is looked at and nothing written. */
  write: null | {
    mode: 'all or nothing' | 'without the refused';
    expected: string;
    beforeKeeping: () => Promise<void>;
  };
  onRefused?: (row: RefusedRow) => void;
  progress?: (rows: number) => Promise<void>;
}

/**
 * Brings the records of a file into a table under the person's view: adds those that aren't known, changes those that
 * are. First it is asked without `write`, which tells what would come of it; then with it, in one transaction, which
 * goes through only when the same would come of it still.
 */
export async function bring(
  source: Source,
  visit: Visit,
  plan: ImportPlan,
  rows: () => AsyncIterable<FileRows>,
  options: BringOptions,
): Promise<BringOutcome> {
  const { write } = options;
  // What a builder brings is looked at without writing it, where nothing but its values has to be looked at.
  if (!write && visit.person.kind === 'builder' && !hasRules(atTable(source, visit, plan.table)))
    return bringIn(source, null, visit, plan, rows, options);
  return writing(source, visit, { trial: !write, by: { brought: true } }, async (runner) => {
    const outcome = await bringIn(runner, runner, visit, plan, rows, options);
    if (!write) return outcome;
    if (outcome.digest !== write.expected) throw new BringChanged(outcome);
    if (outcome.refused > 0 && write.mode === 'all or nothing') throw new BringRefused(outcome);
    await write.beforeKeeping();
    return outcome;
  });
}

/** Whether nothing but its values has to be looked at in what is written to a table, and nothing noted. */
const isPlain = (visit: Visit, table: Table): boolean =>
  !hasRules({ visit, table }) && historyOf(visit.definition, table) === null;

async function bringIn(
  runner: Runner,
  writer: Transaction | null,
  visit: Visit,
  plan: ImportPlan,
  rows: () => AsyncIterable<FileRows>,
  options: BringOptions,
): Promise<BringOutcome> {
  const bringing = new Bringing(runner, visit, plan);
  await bringing.check();
  const tally = new Tally(options.onRefused);
  let count = 0;
  for await (const batch of rows()) {
    const decided = await bringing.decide(batch);
    if (writer && visit.person.kind === 'builder' && isPlain(visit, bringing.table))
      await writeTogether(writer, bringing.table, bringing.view.dialect, decided);
    else if (writer) await writeEach(writer, visit, bringing.table, decided);
    for (const one of decided) tally.take(one, batch.rows, plan.columns);
    count += batch.rows.length;
    await options.progress?.(count);
  }
  return tally.outcome();
}
