import type { Source, Transaction } from '../../sources/source';
import { createIn } from './create';
import { editIn, type Changes } from './edit';
import { Conflict, InvalidValues, NotFound, Refused, SomeRefused } from '../view/errors';
import type { OpenRecord } from '../view/open-record';
import type { Outcome } from '../view/outcome';
import { removeIn } from './remove';
import type { Visit } from '../view/visit';
import { followUp } from './follow';
import { attempting } from './transaction-log';
import type { WriteOptions } from './write';
import { writing } from './writing';

/** One of several writes. */
export type Write =
  | { create: Record<string, unknown> }
  | { edit: string; changes: Changes }
  | { delete: string; seen?: Record<string, unknown> };

/**
 * Several writes on one table in one transaction. Either all or nothing, and then SomeRefused carries the outcome of
 * each; or each by itself.
 * With all or nothing the later ones are still tried after a refusal, so that every fault is told at once.
 */
export async function several(
  source: Source,
  visit: Visit,
  table: string,
  writes: Write[],
  mode: 'all or nothing' | 'each by itself' = 'all or nothing',
  options: WriteOptions = {},
): Promise<Outcome[]> {
  return writing(source, visit, options, async (runner) => {
    const outcomes: Outcome[] = [];
    for (const write of writes) outcomes.push(await outcomeOf(runner, visit, () => once(runner, visit, table, write)));
    if (mode === 'all or nothing' && outcomes.some((outcome) => !outcome.done)) throw new SomeRefused(outcomes);
    return outcomes;
  });
}

async function once(
  runner: Transaction,
  visit: Visit,
  table: string,
  write: Write,
): Promise<{ id: string | null; record: OpenRecord | null }> {
  if ('create' in write) return createIn(runner, visit, table, write.create);
  if ('edit' in write) return { id: write.edit, record: await editIn(runner, visit, table, write.edit, write.changes) };
  await removeIn(runner, visit, table, write.delete, write.seen);
  return { id: write.delete, record: null };
}

export async function outcomeOf(
  runner: Transaction,
  visit: Visit,
  work: () => Promise<{ id: string | null; record: OpenRecord | null }>,
): Promise<Outcome> {
  const { files } = visit;
  const held = files?.held() ?? 0;
  const whole = async () => {
    const done = await work();
    await followUp(runner, visit);
    return done;
  };
  try {
    return { done: true, ...(await attempting(runner, whole))! };
  } catch (error) {
    await files?.letGo(held);
    if (
      error instanceof NotFound ||
      error instanceof InvalidValues ||
      error instanceof Refused ||
      error instanceof Conflict
    )
      return { done: false, error };
    throw error;
  }
}
