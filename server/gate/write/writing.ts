import { OutcomeUnknown } from '../../sources/outcome-unknown';
import type { Source, Transaction } from '../../sources/source';
import type { Visit } from '../view/visit';
import { followUp } from './follow';
import { letGoBeside } from './held-beside';
import { writeBeside } from './record-changes';
import { beginLog } from './transaction-log';
import type { WriteOptions } from './write';

interface WritingOptions extends WriteOptions {
  /** The work makes one record and does nothing else. */
  isOne?: boolean;
}

/**
 * One transaction: the write, what follows of it by itself, and what leaves, which is written down before it is kept
 * and let go after.
 */
export async function writing<T>(
  source: Source,
  visit: Visit,
  options: WritingOptions,
  work: (runner: Transaction) => Promise<T>,
): Promise<T> {
  const { files } = visit;
  const held = files?.held() ?? 0;
  const leaver = options.trial ? undefined : (options.leaver ?? visit.leaver?.());
  const keeper = options.trial ? undefined : visit.history?.();
  let result: T;
  try {
    result = await source.transaction(
      async (runner) => {
        const { leaving, changes } = beginLog(runner, options.by, options.isOne && !options.beforeKeeping);
        const done = await work(runner);
        await followUp(runner, visit);
        if (options.trial) options.wouldLeave?.(leaving);
        const waiting = leaving.mails.length + leaving.calls.length > 0 ? await leaver?.hold(leaving) : null;
        if (waiting) await letGoBeside(runner, waiting);
        if (changes.length > 0 && !options.trial) {
          if (!keeper) throw new Error('a table keeps its history, and nobody is there to keep it');
          const lines = await keeper.hold(changes);
          if (lines) await writeBeside(runner, lines);
        }
        await options.beforeKeeping?.();
        return done;
      },
      { keep: !options.trial, isLarge: options.by?.brought },
    );
    if (options.trial) await files?.letGo(held);
  } catch (error) {
    // What may have been kept keeps its files, and what was to leave of it.
    if (!(error instanceof OutcomeUnknown)) {
      await files?.letGo(held);
      // What can't be forgotten at this moment is never let go: the first error is what is told.
      await leaver?.drop().catch(() => undefined);
      await keeper?.drop().catch(() => undefined);
    }
    throw error;
  }
  await leaver?.keep();
  await keeper?.keep();
  return result;
}
