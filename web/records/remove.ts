import { counted } from '../../core/text/counted';
import { readTableInfo, refusalText, writeRecords } from '../client/grid';
import { wholeRecords } from '../client/whole-records';

/** What became of records that were to be deleted. */
interface Removed {
  gone: string[];
  /** Why the others stay. */
  refused: string[];
  /** Makes them again, and says how that went; absent where not all that stood in them is seen and may be written. */
  undo?: () => Promise<string>;
}

/** Deletes records, each by itself. `refresh` shows what is there now. */
export async function removed(
  base: string,
  table: string,
  ids: readonly string[],
  refresh: () => Promise<unknown>,
): Promise<Removed> {
  const info = await readTableInfo(base, table);
  const whole = await wholeRecords(base, info, ids);
  const outcomes = await writeRecords(
    base,
    table,
    whole.map(({ id }) => ({ delete: id! })),
  );
  await refresh();
  const gone = whole.filter((_, i) => outcomes[i]!.done);
  const { fills } = info;
  // What the database counts on by itself gets its number back where that may be written, else a new one.
  const restorable =
    fills !== null &&
    gone.every(({ values, masked }) => masked.length === 0 && Object.keys(values).length > 0) &&
    info.columns.every(({ path, veiled }) => !veiled && (fills.includes(path) || info.key.includes(path)));
  const undo = async (): Promise<string> => {
    const back = await writeRecords(
      base,
      table,
      gone.map(({ id, values }) => ({
        create: Object.fromEntries(
          Object.entries(values).filter(([path, value]) => value !== null && fills!.includes(path)),
        ),
        inPlaceOf: id!,
      })),
    );
    await refresh();
    const failed = back.filter((outcome) => !outcome.done);
    if (failed.length === 0)
      return info.key.every((path) => fills!.includes(path)) ? 'Undone.' : 'Made again, under a new number.';
    return `${counted(failed.length, 'record')} could not be made again: ${refusalText(failed[0]!)}`;
  };
  return {
    gone: gone.map(({ id }) => id!),
    refused: outcomes.flatMap((outcome) => (outcome.done ? [] : [refusalText(outcome)])),
    ...(restorable && gone.length > 0 ? { undo } : {}),
  };
}
