import { useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { fromPlain } from '../../core/table/plain-text';
import { ServerProblem } from '../client/http';
import { records, type ColumnInfo } from '../client/portal';
import { useDone } from '../place/done';
import { usePlace, useUnsaved } from '../place/place';
import { faultsIn } from './field-faults';

/** What is typed of a new record, what is wrong with it, and how it is sent. */
export function useNewRecord({
  table,
  all,
  columns = all,
  given = {},
  onMade,
}: {
  table: string;
  /** The columns that are sent where something is typed or given. */
  all: ColumnInfo[];
  /** Those at which faults can stand. */
  columns?: ColumnInfo[];
  /** What is known beforehand, by its column, as text. */
  given?: Record<string, string>;
  /** Called with the id of what was made; null where the person doesn't see it. */
  onMade: (id: string | null) => void;
}) {
  const { base } = usePlace();
  const client = useQueryClient();
  const say = useDone();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [faults, setFaults] = useState<Record<string, string>>({});
  const [isBusy, setBusy] = useState(false);
  const isDirty = Object.values(typed).some((text) => text !== '');
  const settled = useUnsaved(isDirty);
  const send = async () => {
    setBusy(true);
    const values = Object.fromEntries(
      all.flatMap((column) => {
        const text = given[column.path] ?? typed[column.path] ?? '';
        return text === '' ? [] : [[column.path, fromPlain(column, text)]];
      }),
    );
    try {
      const made = await records(base)('POST /records/:table', { params: { table }, body: { values } });
      settled();
      setTyped({});
      setFaults({});
      await client.invalidateQueries({ queryKey: [base] });
      say({ words: made.record ? 'Added.' : 'Added. It is not among what you see here.' });
      onMade(made.record?.id ?? null);
    } catch (error) {
      if (!(error instanceof ServerProblem)) throw error;
      setFaults(faultsIn(error, columns));
    } finally {
      setBusy(false);
    }
  };
  const type = (path: string) => (text: string) => setTyped((before) => ({ ...before, [path]: text }));
  return { typed, type, faults, isBusy, isDirty, send };
}
