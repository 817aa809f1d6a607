import { useState, type FormEvent } from 'react';
import { fromPlain } from '../../core/table/plain-text';
import { problemText, ServerProblem } from '../client/http';
import { useComments, useSaying, type Circle } from '../client/comments';
import type { ColumnInfo, OpenRecord } from '../client/portal';
import { useDone } from '../place/done';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { Dialog } from '../ui/Dialog';
import { Field } from '../ui/Field';
import { InputLabel } from './InputLabel';
import { Notice } from '../ui/Notice';
import { CircleChoice } from './CircleChoice';
import { ColumnInput } from './ColumnInput';
import { RecordCell } from './RecordCell';

interface Of {
  table: string;
  id: string;
  column: ColumnInfo;
  record: OpenRecord;
}

/** Beside a fact, for whoever may say something of the record: a way to say that it is wrong. */
export default function IsWrong(of: Of) {
  const { base, seenBy } = usePlace();
  const [open, setOpen] = useState(false);
  const writes = useComments(base, of.table, of.id).data?.pages[0]?.writes ?? [];
  // What stands elsewhere is another record's.
  if (writes.length === 0 || of.column.path.includes('.')) return null;
  return (
    <>
      <button
        type="button"
        aria-label={`wrong? ${of.column.label}`}
        className="no-print ml-2 text-xs text-water underline"
        disabled={seenBy}
        onClick={() => setOpen(true)}
      >
        wrong?
      </button>
      {open && <WrongDialog {...of} writes={writes} onClose={() => setOpen(false)} />}
    </>
  );
}

function WrongDialog({ table, id, column, record, writes, onClose }: Of & { writes: Circle[]; onClose: () => void }) {
  const { base } = usePlace();
  const { say } = useSaying(base, table, id);
  const done = useDone();
  const [meant, setMeant] = useState('');
  const [text, setText] = useState('');
  const [circle, setCircle] = useState<Circle>(writes[0]!);
  const fields = say.error instanceof ServerProblem ? ((say.error.body.fields ?? {}) as Record<string, string>) : {};
  const inWords = column.relation !== undefined || column.kind === 'file';
  const send = (event: FormEvent) => {
    event.preventDefault();
    // It stands within the record's own form, to which React would hand it on.
    event.stopPropagation();
    const wrong = { column: column.path, meant: inWords ? null : fromPlain({ ...column, nullable: true }, meant) };
    const sent = () => {
      onClose();
      done({ words: `${column.label}: said to be wrong, among the comments.` });
    };
    say.mutate({ text, circle, wrong }, { onSuccess: sent });
  };
  return (
    <Dialog title={`Wrong: ${column.label}`} open onOpenChange={(isOpen) => !isOpen && onClose()}>
      <form noValidate className="grid gap-3" onSubmit={send}>
        <p className="text-soft">
          Now it says: <RecordCell base={base} table={table} column={column} record={record} />
        </p>
        {!inWords && (
          <Field label={<InputLabel label="It should be" mayStayEmpty />} fault={fields.meant}>
            {(ids) => (
              <ColumnInput
                column={{ ...column, nullable: true }}
                value={meant}
                onChange={setMeant}
                place={{ base, table, id }}
                inputProps={ids}
              />
            )}
          </Field>
        )}
        <Field label="In your words" fault={fields.text}>
          {(ids) => (
            <textarea
              {...ids}
              className="field"
              rows={3}
              maxLength={4000}
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          )}
        </Field>
        <CircleChoice circles={writes} chosen={circle} onChoose={setCircle} />
        {say.isError && !fields.meant && !fields.text && <Notice kind="fault">{problemText(say.error)}</Notice>}
        <Button type="submit" weight="main" disabled={say.isPending}>
          Say so
        </Button>
      </form>
    </Dialog>
  );
}
