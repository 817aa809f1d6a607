import { useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { useTableInfo } from '../client/grid';
import { problemText, ServerProblem } from '../client/http';
import { records, type ChangeSet, type ColumnInfo, type OpenRecord } from '../client/portal';
import { useDone } from '../place/done';
import { usePlace } from '../place/place';
import { useActions } from '../client/actions';
import { ActionButtons } from './ActionButtons';
import { removed } from './remove';
import { ColumnInput } from './ColumnInput';
import { Button } from '../ui/Button';
import { Dialog } from '../ui/Dialog';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';
import { Question } from '../ui/Question';
import { faultsIn } from './field-faults';

type Move = OpenRecord['moves'][number];

interface ActsProps {
  table: string;
  record: OpenRecord;
  title: string;
  /** Nothing is done while something typed is not saved. */
  dirty: boolean;
}

/** What can be done with a record now by a press: its moves, and actions. */
export function RecordActs({ table, record, title, dirty }: ActsProps) {
  const { base } = usePlace();
  const actions = useActions(base, table).filter(({ id }) => record.actions.includes(id));
  if (record.moves.length === 0 && (actions.length === 0 || record.id === null)) return null;
  return (
    <div className="no-print flex flex-wrap items-center gap-2">
      <ActionButtons actions={actions} on={{ record: { ...record, id: record.id! } }} called={title} dirty={dirty} />
      <RecordMoves table={table} record={record} title={title} dirty={dirty} />
      {dirty && <span className="text-sm text-soft">Save or discard first.</span>}
    </div>
  );
}

/** The moves that a record can make now. */
function RecordMoves({ table, record, title, dirty }: ActsProps) {
  const { base, seenBy } = usePlace();
  const client = useQueryClient();
  const say = useDone();
  const [asking, setAsking] = useState<Move | null>(null);
  const [busy, setBusy] = useState(false);
  const move = async ({ id, name }: Move, changes: ChangeSet) => {
    const params = { table, id: record.id!, move: id };
    const answer = await records(base)('POST /records/:table/:id/moves/:move', { params, body: { changes } });
    await client.invalidateQueries({ queryKey: [base] });
    say({ words: `${name}: done.${answer.record ? '' : ' The record is no longer among yours.'}` });
  };
  const press = async (chosen: Move) => {
    if (chosen.needs.some((path) => plainText(record.values[path] ?? null) === '')) return setAsking(chosen);
    setBusy(true);
    try {
      await move(chosen, {});
    } catch (error) {
      say({ words: problemText(error), fault: true });
      await client.invalidateQueries({ queryKey: [base] });
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      {record.moves.map((each) => (
        <Button key={each.id} disabled={dirty || busy || seenBy} onClick={() => void press(each)}>
          {each.name}
          {each.needs.length > 0 && ' …'}
        </Button>
      ))}
      {asking && (
        <MoveDialog
          table={table}
          record={record}
          title={title}
          move={asking}
          onMove={(changes) => move(asking, changes)}
          onClose={() => setAsking(null)}
        />
      )}
    </>
  );
}

/** Asks for what a move needs. */
function MoveDialog({
  table,
  record,
  title,
  move,
  onMove,
  onClose,
}: {
  table: string;
  record: OpenRecord;
  title: string;
  move: Move;
  onMove: (changes: ChangeSet) => Promise<void>;
  onClose: () => void;
}) {
  const { base } = usePlace();
  const info = useTableInfo(base, table);
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [faults, setFaults] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const columns = info.data?.columns.filter(({ path }) => move.needs.includes(path)) ?? [];
  const send = async () => {
    setBusy(true);
    try {
      await onMove(
        Object.fromEntries(
          columns
            .filter(({ path }) => path in typed)
            .map((column) => [
              column.path,
              { from: record.values[column.path] ?? null, to: fromPlain(column, typed[column.path]!) },
            ]),
        ),
      );
      onClose();
    } catch (error) {
      setFaults(error instanceof ServerProblem ? faultsIn(error, columns) : { '': problemText(error) });
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog title={`${move.name}: ${title}`} open onOpenChange={(open) => !open && onClose()}>
      <form
        noValidate
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          // The dialog stands within the record's own form, to which React would hand it on.
          event.stopPropagation();
          void send();
        }}
      >
        {columns.map((column: ColumnInfo) => (
          <Field key={column.path} label={column.label} fault={faults[column.path]}>
            {(ids) => (
              <ColumnInput
                column={column}
                value={typed[column.path] ?? plainText(record.values[column.path] ?? null)}
                onChange={(text) => setTyped((before) => ({ ...before, [column.path]: text }))}
                place={{ base, table, id: record.id }}
                inputProps={ids}
              />
            )}
          </Field>
        ))}
        {faults[''] && <Notice kind="fault">{faults['']}</Notice>}
        <Button type="submit" weight="main" disabled={busy || info.isPending}>
          {move.name}
        </Button>
      </form>
    </Dialog>
  );
}

/** Deletes the record after a question. */
export function DeleteRecord({ table, record, title, dirty }: ActsProps) {
  const { base, spot, go, seenBy } = usePlace();
  const client = useQueryClient();
  const say = useDone();
  const remove = async () => {
    try {
      const done = await removed(base, table, [record.id!], () => client.invalidateQueries({ queryKey: [base] }));
      if (done.gone.length === 0) return say({ words: done.refused[0]!, fault: true });
      go({ ...spot, record: null }, { replace: true });
      say({ words: `${title} is deleted.`, undo: done.undo && (async () => say({ words: await done.undo!() })) });
    } catch (error) {
      say({ words: problemText(error), fault: true });
    }
  };
  return (
    <Question
      trigger={
        <Button weight="danger" small disabled={dirty || seenBy}>
          Delete
        </Button>
      }
      title={`Delete ${title}?`}
      says="It goes for everyone. If other records belong to it, it stays, and you are told."
      keep="Keep it"
      go="Delete it"
      onGo={() => void remove()}
    />
  );
}
