import { lazy, Suspense, useEffect, useRef, useState, type FormEvent } from 'react';
import { counted } from '../../core/text/counted';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { ServerProblem } from '../client/http';
import { useSaveRecord, type ChangeSet, type ColumnInfo, type OpenRecord } from '../client/portal';
import { usePlace, useUnsaved } from '../place/place';
import { NotNow } from './Cell';
import { ColumnInput } from './ColumnInput';
import { InGroups, ungrouped, type Grouped } from './InGroups';
import { RecordCell, titleIn } from './RecordCell';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';
import { faultsIn } from './field-faults';
import { DeleteRecord, RecordActs } from './RecordActs';
import { RecordConflicts, type Conflicts } from './RecordConflicts';

const IsWrong = lazy(() => import('./IsWrong'));

/** Label beside value, as far as there is room. */
const rowLook = 'grid grid-cols-[minmax(5rem,8rem)_1fr] gap-3';

/** A record's columns: what can be changed as inputs, the rest as text. Saves only what was changed. */
export function RecordForm({
  table,
  id,
  columns,
  record,
  away,
  title,
  deletes,
  untitled = false,
  grouped = ungrouped,
  doubts = false,
  under,
}: {
  table: string;
  id: string;
  /** What the record is called. */
  title: string;
  /** Whether deleting is offered where it is listed. */
  deletes: boolean;
  /** No title stands above it, so its first column is shown as the others are. */
  untitled?: boolean;
  grouped?: Grouped;
  /** Whether it can be said beside its facts that one is wrong. */
  doubts?: boolean;
  /** The heading that stands over it. */
  under: 'h1' | 'h2';
  columns: ColumnInfo[];
  record: OpenRecord;
  away: string[];
}) {
  const { base, seenBy, onAskWhy } = usePlace();
  const editable = columns.filter((column) => record.editable.includes(column.path));
  // What the person was shown when they began: a change by someone else since then is a conflict, not a new beginning.
  const [shown, setShown] = useState(record.values);
  const [typed, setTyped] = useState<Record<string, string>>({});
  const save = useSaveRecord(base, table, id);
  const [conflicts, setConflicts] = useState<Conflicts | null>(null);
  const [faults, setFaults] = useState<Record<string, string>>({});
  const [done, setDone] = useState('');
  const form = useRef<HTMLFormElement>(null);
  const changed = editable.filter(
    ({ path }) => typed[path] !== undefined && typed[path] !== plainText(shown[path] ?? null),
  );
  const dirty = changed.length > 0;
  useUnsaved(dirty);
  const [given, setGiven] = useState(record);
  if (record !== given && !dirty) {
    setGiven(record);
    setShown(record.values);
    setTyped({});
  }
  useEffect(() => {
    const first = form.current?.querySelector<HTMLElement>('[aria-invalid="true"]');
    if (Object.keys(faults).length > 0) first?.focus();
  }, [faults]);

  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setDone('');
    const changes: ChangeSet = Object.fromEntries(
      changed.map((column) => [
        column.path,
        { from: shown[column.path] ?? null, to: fromPlain(column, typed[column.path]!) },
      ]),
    );
    try {
      const answer = await save.mutateAsync(changes);
      setConflicts(null);
      setFaults({});
      setTyped({});
      if (answer.record) setShown(answer.record.values);
      setDone(answer.record ? 'Saved.' : 'Saved. The record is no longer among yours.');
    } catch (error) {
      if (!(error instanceof ServerProblem)) throw error;
      if (error.type === 'conflict') setConflicts(error.body.fields as Conflicts);
      else setFaults(faultsIn(error, columns));
    }
  };
  const type = (path: string) => (text: string) => setTyped((before) => ({ ...before, [path]: text }));
  const settle = ({ path }: ColumnInfo, mine: boolean) => {
    const { [path]: conflict, ...rest } = conflicts!;
    setShown((before) => ({ ...before, [path]: conflict!.now }));
    type(path)(plainText(mine ? conflict!.yours : conflict!.now));
    setConflicts(Object.keys(rest).length ? rest : null);
  };
  const field = (column: ColumnInfo) => (
    <Field key={column.path} label={column.label} fault={faults[column.path]} beside>
      {(ids) => (
        <ColumnInput
          column={column}
          value={typed[column.path] ?? plainText(shown[column.path] ?? null)}
          onChange={type(column.path)}
          place={{ base, table, id }}
          title={column.path in typed ? null : titleIn({ values: shown, masked: record.masked }, column)}
          inputProps={ids}
        />
      )}
    </Field>
  );
  const fact = (column: ColumnInfo) => (
    <div key={column.path} className={rowLook}>
      <span className="text-soft text-sm pt-0.5">{column.label}</span>
      <span className="min-w-0 break-words whitespace-pre-line">
        {away.includes(column.path) ? (
          <NotNow />
        ) : (
          <RecordCell base={base} table={table} column={column} record={record} />
        )}
        {onAskWhy && (
          <button
            type="button"
            className="ml-2 text-xs text-water underline"
            onClick={() => onAskWhy(table, id, column.path)}
          >
            why?
          </button>
        )}
        {doubts && column.path in record.values && !record.masked.includes(column.path) && (
          <Suspense>
            <IsWrong table={table} id={id} column={column} record={record} />
          </Suspense>
        )}
      </span>
    </div>
  );

  // Its first column is its title, where that is whole and nothing can be changed of it.
  const drawn = columns
    .filter((column, i) => i > 0 || untitled || editable.includes(column) || record.masked.includes(column.path))
    .filter(({ path }) => record.editable.includes(path) || path in record.values || away.includes(path));
  return (
    <form ref={form} onSubmit={(event) => void submit(event)} noValidate className="grid max-w-3xl gap-4">
      <RecordActs table={table} record={record} title={title} dirty={dirty} />
      {conflicts && <RecordConflicts columns={columns} conflicts={conflicts} onSettle={settle} />}
      <InGroups
        columns={drawn}
        grouped={grouped}
        under={under}
        draw={(column) => (editable.includes(column) ? field(column) : fact(column))}
      />
      {faults[''] && <Notice kind="fault">{faults['']}</Notice>}
      {editable.length > 0 && (
        <div className="flex flex-wrap items-center gap-3 no-print">
          <Button type="submit" weight="main" disabled={!dirty || save.isPending || seenBy}>
            {save.isPending ? 'Saving …' : dirty ? `Save ${counted(changed.length, 'change')}` : 'Save'}
          </Button>
          {dirty && (
            <Button
              onClick={() => {
                setTyped({});
                setFaults({});
                setConflicts(null);
              }}
            >
              Discard
            </Button>
          )}
          <span role="status" className="text-lichen-ink font-semibold">
            {dirty ? '' : done}
          </span>
          {seenBy && <span className="text-sm text-soft">Seen by changes nothing.</span>}
        </div>
      )}
      {deletes && record.deletable && (
        <div className="no-print border-t border-line pt-3">
          <DeleteRecord table={table} record={record} title={title} dirty={dirty} />
        </div>
      )}
    </form>
  );
}
