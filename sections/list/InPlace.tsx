import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Check, X } from 'lucide-react';
import { fromPlain, plainText } from '../../core/table/plain-text';
import type { Value } from '../../core/table/value';
import { problemText, ServerProblem } from '../../web/client/http';
import { records, useChangedInList, useSaveRecord, type ColumnInfo, type ViewRecord } from '../../web/client/portal';
import { usePlace, useUnsaved } from '../../web/place/place';
import { ColumnInput } from '../../web/records/ColumnInput';
import { faultsIn } from '../../web/records/field-faults';
import { RecordCell } from '../../web/records/RecordCell';
import { Button } from '../../web/ui/Button';

interface InPlaceProps {
  section: string;
  table: string;
  column: ColumnInfo;
  record: ViewRecord & { id: string };
  /** What the record is called. */
  called: string;
  onDone: () => void;
}

/** One cell being changed where it stands: Enter keeps it, Escape leaves it as it was. */
export default function InPlace({ section, table, column, record, called, onDone }: InPlaceProps) {
  const { base } = usePlace();
  const fresh = useRecordAnew(base, table, record.id, column.path);
  if (fresh.error) return <Refused words={problemText(fresh.error)} onDone={onDone} />;
  if (!fresh.data) return <RecordCell base={base} table={table} column={column} record={record} />;
  if (!fresh.data.record.editable.includes(column.path))
    return <Refused words="This can't be changed here." onDone={onDone} />;
  return (
    <Editing
      section={section}
      table={table}
      column={column}
      record={record}
      called={called}
      now={fresh.data.record.values[column.path] ?? null}
      onDone={onDone}
    />
  );
}

/** One cell of a record as it is now, never as it was kept from before: what a change begins from. */
function useRecordAnew(base: string, table: string, id: string, columns: string) {
  const asked = { params: { table, id }, query: { columns } };
  const [begun] = useState(() => Date.now());
  const { data, dataUpdatedAt, isFetchedAfterMount, error } = useQuery({
    queryKey: [base, 'record', asked],
    queryFn: () => records(base)('GET /records/:table/:id', asked),
    refetchOnMount: 'always',
  });
  // What was read goes on to be changed, also where it can't be read once more.
  if (dataUpdatedAt >= begun) return { data };
  return isFetchedAfterMount ? { error } : {};
}

function Refused({ words, onDone }: { words: string; onDone: () => void }) {
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => button.current?.focus(), []);
  return (
    <span className="inline-flex items-center gap-1" role="alert">
      <span className="text-sm text-soft">{words}</span>
      <button ref={button} type="button" className="min-h-7 min-w-7 rounded-stone hover:bg-sunk" onClick={onDone}>
        <X size={14} className="mx-auto" aria-label="Leave it" />
      </button>
    </span>
  );
}

function Editing({ section, table, column, record, called, now, onDone }: InPlaceProps & { now: Value }) {
  const { base, seenBy, spot } = usePlace();
  const save = useSaveRecord(base, table, record.id);
  const changed = useChangedInList(base, spot.page, section);
  // What the person was shown when they began: a change by someone else since then is a conflict.
  const [shown, setShown] = useState(now);
  const [typed, setTyped] = useState(plainText(now));
  const [fault, setFault] = useState<string | null>(null);
  const input = useRef<HTMLInputElement & HTMLTextAreaElement>(null);
  const around = useRef<HTMLDivElement>(null);
  const isChanged = typed !== plainText(shown);
  useUnsaved(isChanged && !save.isPending);
  useEffect(() => {
    const first = input.current ?? around.current?.querySelector<HTMLElement>('input, select, textarea, button');
    first?.focus();
  }, []);
  const keep = () => {
    if (!isChanged) return onDone();
    if (seenBy || save.isPending) return;
    setFault(null);
    save.mutate(
      { [column.path]: { from: shown, to: fromPlain(column, typed) } },
      {
        onSuccess: ({ record: now }) => {
          if (now) changed(record.id, now);
          onDone();
        },
        onError: (error) => {
          if (!(error instanceof ServerProblem)) return setFault(problemText(error));
          const conflict = error.type === 'conflict' ? (error.body.fields as Conflicts)[column.path] : undefined;
          if (conflict) setShown(conflict.now);
          const meanwhile =
            conflict && `It was changed to “${plainText(conflict.now)}” meanwhile. Keep yours, or leave it.`;
          const faults = faultsIn(error, [column]);
          setFault(meanwhile ?? faults[column.path] ?? faults[''] ?? problemText(error));
        },
      },
    );
  };
  const press = (event: KeyboardEvent) => {
    if (event.key === 'Escape') onDone();
    else if (event.key === 'Enter' && !event.shiftKey) keep();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  // What was typed stands there at once; what comes of it is seen when it is there.
  if (save.isPending)
    return (
      <span aria-busy="true">
        <RecordCell
          base={base}
          table={table}
          column={column}
          record={{ ...record, values: { ...record.values, [column.path]: fromPlain(column, typed) as Value } }}
        />
      </span>
    );
  return (
    <div ref={around} className="grid min-w-44 gap-1">
      <div className="flex items-center gap-1">
        <div className="min-w-0 flex-1">
          <ColumnInput
            column={column}
            value={typed}
            onChange={setTyped}
            place={{ base, table, id: record.id }}
            inputProps={{
              'aria-label': `${column.label} of ${called}`,
              'aria-invalid': fault !== null,
              // A list of choices has these keys for itself.
              ...(column.type === 'one choice' ? {} : { onKeyDown: press }),
            }}
            inputRef={input}
          />
        </div>
        <Button small weight="main" disabled={seenBy} aria-label={`Keep ${column.label} of ${called}`} onClick={keep}>
          <Check size={14} aria-hidden />
        </Button>
        <Button small aria-label={`Leave ${column.label} of ${called} as it was`} onClick={onDone}>
          <X size={14} aria-hidden />
        </Button>
      </div>
      {fault !== null && (
        <p role="alert" className="text-sm font-medium text-iron">
          {fault}
        </p>
      )}
    </div>
  );
}

type Conflicts = Record<string, { now: Value } | undefined>;
