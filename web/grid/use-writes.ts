import { counted } from '../../core/text/counted';
import { useEffect, useRef, useState } from 'react';
import { useQueryClient, type InfiniteData } from '@tanstack/react-query';
import { problemText } from '../client/http';
import { refusalText, writeRecords, type Outcome, type ViewRecord, type Write } from '../client/grid';
import { useLastDone } from '../client/last-done';
import type { Value } from '../../core/table/value';

/** One cell to change: what stood there and what was typed. */
export interface CellChange {
  id: string;
  path: string;
  from: Value | undefined;
  to: unknown;
  typed: string;
}

/** What was typed into a cell and is not kept, or not yet: it stays there with the reason. */
export interface Unkept {
  typed: string;
  reason: string | null;
}

type Step = { label: string; undo: () => Promise<void> };

/**
 * What a grid writes, over a table whose `relations` are these columns: with the cells that were refused, a sentence on
 * what was done, and the way back.
 */
export function useWrites(base: string, table: string, onChanged: () => void, relations: readonly string[] = []) {
  const client = useQueryClient();
  const [unkept, setUnkept] = useState<ReadonlyMap<string, Unkept>>(new Map());
  const [said, setSaid] = useState<{ text: string; fault: boolean } | null>(null);
  const lastDone = useLastDone();
  /** What one gesture does in several steps is one thing to undo. */
  const gesture = useRef<Step[] | null>(null);
  const remember = (step: Step) => {
    if (gesture.current) gesture.current.push(step);
    else
      lastDone.did({
        label: step.label,
        undo: async () => {
          await guarded(step.undo);
          return here.current ? null : lastSaid.current;
        },
      });
  };
  const lastSaid = useRef<string | null>(null);
  const say = (text: string, fault = false) => {
    lastSaid.current = text;
    setSaid({ text, fault });
  };
  const here = useRef(true);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);
  /** Writes wait for each other: what is undone is what was written last, also when that is still on its way. */
  const turn = useRef(Promise.resolve());
  const guarded = (work: () => Promise<void>): Promise<void> => {
    turn.current = turn.current.then(work).catch((error: unknown) => say(problemText(error), true));
    lastDone.doing(turn.current);
    return turn.current;
  };

  /** Puts what the server has now into the pages that are shown, without asking for them again. */
  const refresh = (outcomes: Outcome[], paths: string[]) => {
    const fresh = new Map(
      outcomes.flatMap((outcome) =>
        outcome.done && outcome.record?.id ? [[outcome.record.id, outcome.record] as const] : [],
      ),
    );
    client.setQueriesData<InfiniteData<{ records: ViewRecord[] }>>(
      { queryKey: [base, 'grid', table] },
      (data) =>
        data && {
          ...data,
          pages: data.pages.map((page) => ({
            ...page,
            records: page.records.map((record) => {
              const now = record.id === null ? undefined : fresh.get(record.id);
              return now
                ? {
                    ...record,
                    values: {
                      ...record.values,
                      ...Object.fromEntries(Object.entries(now.values).filter(([path]) => path in record.values)),
                    },
                    masked: now.masked,
                  }
                : record;
            }),
          })),
        },
    );
    onChanged();
    // What the records are called that a relation leads to now is asked for anew.
    if (outcomes.some((outcome) => outcome.done) && paths.some((path) => relations.includes(path)))
      void client.invalidateQueries({ queryKey: [base, 'grid', table] });
  };

  /** The outcomes of a write that waits its turn; none where it could not be asked for. */
  const told = async (work: () => Promise<Outcome[]>): Promise<Outcome[]> => {
    let outcomes: Outcome[] = [];
    await guarded(async () => {
      outcomes = await work();
    });
    return outcomes;
  };
  const change = (changes: CellChange[], label: string) => told(() => changeNow(changes, label, false));
  const changeNow = async (changes: CellChange[], label: string, undoing: boolean): Promise<Outcome[]> => {
    const byRecord = new Map<string, CellChange[]>();
    for (const each of changes) byRecord.set(each.id, [...(byRecord.get(each.id) ?? []), each]);
    const mark = (of: CellChange[], reason: (each: CellChange) => string | null | undefined) =>
      setUnkept((before) => {
        const next = new Map(before);
        for (const each of of) {
          const why = reason(each);
          if (why === undefined) next.delete(cellKey(each.id, each.path));
          else next.set(cellKey(each.id, each.path), { typed: each.typed, reason: why });
        }
        return next;
      });
    mark(changes, () => null);
    const ids = [...byRecord.keys()];
    let outcomes: Outcome[];
    try {
      outcomes = await writeRecords(
        base,
        table,
        ids.map((id): Write => ({
          edit: id,
          changes: Object.fromEntries(
            byRecord.get(id)!.map(({ path, from, to }) => [path, { from: from ?? null, to }]),
          ),
        })),
      );
    } catch (error) {
      mark(changes, () => problemText(error));
      throw error;
    }
    refresh(
      outcomes,
      changes.map((each) => each.path),
    );
    const done = changes.filter((each) => outcomes[ids.indexOf(each.id)]!.done);
    mark(changes, (each) => {
      const outcome = outcomes[ids.indexOf(each.id)]!;
      return outcome.done ? undefined : refusalText(outcome, each.path);
    });
    const refused = outcomes.filter((outcome) => !outcome.done).length;
    if (done.length > 0 && !undoing) {
      remember({
        label,
        undo: async () => {
          await changeNow(
            done.map((each) => ({
              ...each,
              from: valueNow(outcomes[ids.indexOf(each.id)]!, each),
              to: each.from ?? null,
              typed: '',
            })),
            label,
            true,
          );
        },
      });
    }
    if (refused > 0) say(`${records(refused)} can't be saved so; what you typed is kept beside the reason.`, true);
    else say(undoing ? `Undone: ${label}.` : '');
    return outcomes;
  };

  const add = (values: Record<string, unknown>[], label: string) => told(() => addNow(values, label));
  const addNow = async (values: Record<string, unknown>[], label: string): Promise<Outcome[]> => {
    const outcomes = await writeRecords(
      base,
      table,
      values.map((each) => ({ create: each })),
    );
    const made = outcomes.flatMap((outcome) => (outcome.done && outcome.id !== null ? [outcome.id] : []));
    if (made.length > 0)
      remember({
        label,
        undo: async () => {
          await writeRecords(
            base,
            table,
            made.map((id) => ({ delete: id })),
          );
          await reload();
          say(`Undone: ${label}.`);
        },
      });
    await reload();
    const refused = outcomes.filter((outcome) => !outcome.done);
    if (refused.length > 0)
      say(
        values.length === 1
          ? 'It was not added. What is wrong stands at its fields.'
          : `${made.length} of ${outcomes.length} were added. ${refusalText(refused[0]!)}`,
        true,
      );
    else say(`${records(made.length)} added.`);
    return outcomes;
  };
  /** Changes and new records of one paste. */
  const paste = (changes: CellChange[], values: Record<string, unknown>[], label: string) =>
    guarded(async () => {
      gesture.current = [];
      try {
        if (changes.length > 0) await changeNow(changes, label, false);
        if (values.length > 0) await addNow(values, label);
      } finally {
        const steps = gesture.current;
        gesture.current = null;
        if (steps.length > 0)
          remember({
            label,
            undo: async () => {
              for (const step of steps.toReversed()) await step.undo();
            },
          });
      }
    });

  /** `whole` are the records with all their columns, so that they can be made again. */
  const remove = (whole: ViewRecord[], canRestore: boolean, progress: (done: number) => void) =>
    guarded(async () => {
      const outcomes = await writeRecords(
        base,
        table,
        whole.map((record) => ({ delete: record.id! })),
        progress,
      );
      const gone = whole.filter((_, i) => outcomes[i]!.done);
      const label = `delete ${records(gone.length)}`;
      if (gone.length > 0) {
        remember({
          label,
          undo: async () => {
            if (!canRestore)
              return say(
                `This can't be undone: ${label}. Not all of what stood in them may be seen and written here.`,
                true,
              );
            const back = await writeRecords(
              base,
              table,
              gone.map((record) => ({
                create: Object.fromEntries(Object.entries(record.values).filter(([, value]) => value !== null)),
              })),
            );
            await reload();
            const failed = back.filter((outcome) => !outcome.done);
            if (failed.length > 0)
              say(`${records(failed.length)} could not be made again: ${refusalText(failed[0]!)}`, true);
            else say(`Undone: ${label}.`);
          },
        });
      }
      await reload();
      const refused = outcomes.flatMap((outcome, i) =>
        outcome.done ? [] : [`${whole[i]!.id}: ${refusalText(outcome)}`],
      );
      if (refused.length > 0)
        say(
          `${gone.length} of ${whole.length} deleted. ` +
            `${refused.slice(0, 3).join(' ')}${refused.length > 3 ? ` And ${refused.length - 3} more.` : ''}`,
          true,
        );
      else say(`${records(gone.length)} deleted.`);
    });

  const reload = async () => {
    await Promise.all(
      ['grid', 'grid-total'].map((what) => client.invalidateQueries({ queryKey: [base, what, table] })),
    );
    onChanged();
  };
  const forget = (key: string) =>
    setUnkept((before) => {
      const next = new Map(before);
      next.delete(key);
      return next;
    });
  return { unkept, forget, said, say, change, add, paste, remove };
}

export const cellKey = (id: string, path: string): string => `${id}\n${path}`;
export const records = (count: number): string => counted(count, 'record');

function valueNow(outcome: Outcome, change: CellChange): Value | undefined {
  return outcome.done ? outcome.record?.values[change.path] : undefined;
}
