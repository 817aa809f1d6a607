import { createHash, randomBytes } from 'node:crypto';
import type { SqlValue } from '../../core/sql/sql';
import type { CoreServices } from '../definitions/portal-services';
import { keptRow, type HistoryKeeper, type RecordChange, type Visit } from '../gate/gate';
import { changeColumns, KeptChange } from '../store/history-model';

/** Whoever changes records of a portal; `name` is a builder's, or a key's. */
export type Changing = Pick<Visit, 'definition' | 'person' | 'moment'> & { portalId: number; changedBy: string | null };

/** Records are told apart by the hash of their id. */
export const hashOfRecord = (id: string): string => createHash('sha256').update(id).digest('base64url');

/**
 * Keeps what one write changes in records: in the transaction of the records where they lie on the server of our own
 * tables, else before it is kept, and marked where nobody knows whether it was.
 */
export function historyKeeper({ sources }: Pick<CoreServices, 'sources'>, by: Changing): HistoryKeeper {
  // Made when something is kept.
  let mark = '';
  let isHeld = false;
  const drop = async (): Promise<void> => {
    if (isHeld) await KeptChange.destroy({ where: { mark, state: 'held' } });
    isHeld = false;
  };
  return {
    hold: async (changes) => {
      // A transaction that was taken back and is tried again changes what it does then.
      await drop();
      mark ||= randomBytes(16).toString('hex');
      const schema = sources.beside(by.definition, changes[0]!.table);
      const lines = changes.map((change) => lineOf(by, change, mark, schema === null ? 'held' : 'kept'));
      if (schema !== null) {
        const inOrder = lines.map((line) => changeColumns.map((column) => line[column]));
        return { schema, table: 'record_changes', columns: changeColumns, lines: inOrder };
      }
      isHeld = true;
      await KeptChange.bulkCreate(lines.map(rowOf));
      return null;
    },
    // It is kept by now: what can't be marked so at this moment is shown as unsure.
    keep: async () => {
      if (isHeld) await KeptChange.update({ state: 'kept' }, { where: { mark } }).catch(() => undefined);
    },
    drop,
  };
}

/** Keeps nothing, for what is sent by nobody knows whom. */
export const keepsNothing = (): HistoryKeeper => ({
  hold: () => Promise.resolve(null),
  keep: () => Promise.resolve(),
  drop: () => Promise.resolve(),
});

type Line = Record<(typeof changeColumns)[number], SqlValue>;

function lineOf({ portalId, person, moment, changedBy }: Changing, change: RecordChange, mark: string, state: string) {
  const { table, id, was, now, action, form, brought, follows, role } = change;
  return {
    portal_id: portalId,
    table_name: table,
    record_id: id,
    record_hash: hashOfRecord(id),
    at: moment.toISOString().slice(0, 23).replace('T', ' '),
    state,
    mark,
    was: keptRow(was),
    now: keptRow(now),
    made: was === null ? 'made' : now === null ? 'deleted' : 'changed',
    by_kind: follows || role !== null ? 'service' : person.kind,
    member_id: follows ? null : (person.id ?? null),
    name: follows ? null : changedBy,
    role,
    action,
    form,
    brought: Number(brought),
    follows: Number(follows),
  } satisfies Line;
}

const rowOf = (line: Line) =>
  Object.fromEntries(
    changeColumns.map((column) => [
      column.replaceAll(/_(\w)/g, (_, letter: string) => letter.toUpperCase()),
      column === 'at' ? new Date(`${String(line[column]).replace(' ', 'T')}Z`) : line[column],
    ]),
  ) as unknown as KeptChange;
