import { lazy, Suspense, useEffect, useState } from 'react';
import { useForm, type UseFormReturn } from 'react-hook-form';
import type { Value } from '../../core/table/value';
import { problemText, ServerProblem } from '../client/http';
import { useSaveRecord, type ChangeSet, type ColumnInfo, type OpenRecord } from '../client/portal';
import { Button } from '../ui/Button';
import { Cell, cellText, isNumeric, NotNow } from '../ui/Cell';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';
import { usePlace } from '../place/place';

const FileInput = lazy(() => import('../grid/FileCell'));

/** Label beside value, as far as there is room. */
const rowLook = 'grid grid-cols-[minmax(5rem,8rem)_1fr] gap-3';

type Inputs = Record<string, string | string[]>;
type Conflicts = Record<string, { was: Value; now: Value; yours: Value }>;

/** A record's columns: what can be changed as inputs, the rest as text. Saves only what was changed. */
export function RecordForm({
  table,
  id,
  columns,
  record,
  away,
}: {
  table: string;
  id: string;
  columns: ColumnInfo[];
  record: OpenRecord;
  away: string[];
}) {
  const { base, seenBy, setUnsaved, onAskWhy } = usePlace();
  const editable = columns.filter((column) => record.editable.includes(column.path));
  // What the person was shown when they began: a change by someone else since then is a conflict, not a new beginning.
  const [shown, setShown] = useState(record.values);
  const form = useForm<Inputs>({ defaultValues: inputsOf(editable, record.values) });
  const save = useSaveRecord(base, table, id);
  const [conflicts, setConflicts] = useState<Conflicts | null>(null);
  const [done, setDone] = useState('');
  const changed = editable.filter((column) => form.formState.dirtyFields[column.path]);

  const dirty = changed.length > 0;
  useEffect(() => {
    setUnsaved(dirty);
    return () => setUnsaved(false);
  }, [dirty, setUnsaved]);
  const [given, setGiven] = useState(record);
  if (record !== given && !dirty) {
    setGiven(record);
    setShown(record.values);
  }
  useEffect(() => {
    if (dirty) return;
    form.reset(
      inputsOf(
        columns.filter((column) => record.editable.includes(column.path)),
        record.values,
      ),
    );
  }, [record, dirty, form, columns]);

  const submit = form.handleSubmit(async (inputs) => {
    setDone('');
    const changes: ChangeSet = Object.fromEntries(
      changed.map((column) => [column.path, { from: shown[column.path] ?? null, to: inputs[column.path] }]),
    );
    try {
      const answer = await save.mutateAsync(changes);
      setConflicts(null);
      if (answer.record) {
        setShown(answer.record.values);
        form.reset(inputsOf(editable, answer.record.values));
      }
      setDone(answer.record ? 'Saved.' : 'Saved. The record is no longer among yours.');
    } catch (error) {
      if (!(error instanceof ServerProblem)) throw error;
      if (error.type === 'conflict') setConflicts(error.body.fields as Conflicts);
      else markFaults(form, columns, error);
    }
  });

  const label = (path: string) => columns.find((column) => column.path === path)?.label ?? path;
  const settle = (path: string, mine: boolean) => {
    const conflict = conflicts![path]!;
    const column = columns.find((each) => each.path === path)!;
    setShown((before) => ({ ...before, [path]: conflict.now }));
    form.resetField(path, { defaultValue: inputOf(column, conflict.now) });
    if (mine) form.setValue(path, inputOf(column, conflict.yours), { shouldDirty: true });
    const { [path]: _settled, ...rest } = conflicts!;
    setConflicts(Object.keys(rest).length ? rest : null);
  };

  return (
    <form onSubmit={(event) => void submit(event)} noValidate className="grid gap-4">
      {conflicts && (
        <Notice kind="warn">
          <p className="font-semibold">
            Someone else has changed this record while you were editing it. Nothing of yours was saved yet.
          </p>
          <ul className="mt-2 grid gap-3">
            {Object.entries(conflicts).map(([path, { now, yours }]) => (
              <li key={path} className="grid gap-1">
                <span className="font-semibold">{label(path)}</span>
                <span>
                  It now says “{textOf(columns, path, now)}”; you wrote “{textOf(columns, path, yours)}”.
                </span>
                <span className="flex flex-wrap gap-2">
                  <Button small onClick={() => settle(path, false)}>
                    Keep “{textOf(columns, path, now)}”
                  </Button>
                  <Button small onClick={() => settle(path, true)}>
                    Use mine
                  </Button>
                </span>
              </li>
            ))}
          </ul>
        </Notice>
      )}
      <div className="grid gap-x-4 gap-y-3">
        {columns
          .filter((column, i) => i > 0 || editable.includes(column) || record.masked.includes(column.path))
          .map((column) =>
            editable.includes(column) ? (
              column.kind === 'file' ? (
                <Field key={column.path} label={column.label} beside>
                  {(ids) => (
                    <Suspense>
                      <FileInput
                        base={base}
                        table={table}
                        id={id}
                        column={column.path}
                        label={column.label}
                        value={String(form.getValues(column.path) ?? '')}
                        inputProps={ids}
                        onSent={(file) => form.setValue(column.path, file, { shouldDirty: true })}
                      />
                    </Suspense>
                  )}
                </Field>
              ) : (
                <Input key={column.path} column={column} form={form} />
              )
            ) : (
              (column.path in record.values || away.includes(column.path)) && (
                <div key={column.path} className={rowLook}>
                  <span className="text-soft text-sm pt-0.5">{column.label}</span>
                  <span className="min-w-0 break-words whitespace-pre-line">
                    {away.includes(column.path) ? (
                      <NotNow />
                    ) : (
                      <Cell
                        type={column.type}
                        notes={column}
                        value={record.values[column.path]}
                        masked={record.masked.includes(column.path)}
                      />
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
                  </span>
                </div>
              )
            ),
          )}
      </div>
      {form.formState.errors.root && <Notice kind="fault">{form.formState.errors.root.message}</Notice>}
      {editable.length > 0 && (
        <div className="flex flex-wrap items-center gap-3 no-print">
          <Button type="submit" weight="main" disabled={!dirty || save.isPending || seenBy}>
            {save.isPending
              ? 'Saving …'
              : dirty
                ? `Save ${changed.length} ${changed.length === 1 ? 'change' : 'changes'}`
                : 'Save'}
          </Button>
          {dirty && (
            <Button
              onClick={() => {
                form.reset(inputsOf(editable, shown));
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
    </form>
  );
}

function textOf(columns: ColumnInfo[], path: string, value: Value): string {
  const column = columns.find((each) => each.path === path);
  return cellText(column?.type ?? 'text', value, column?.identifies) || 'nothing';
}

function markFaults(form: UseFormReturn<Inputs>, columns: ColumnInfo[], error: ServerProblem): void {
  const fields = (error.body.fields ?? {}) as Record<string, string>;
  const known = Object.entries(fields).filter(([path]) => columns.some((column) => column.path === path));
  for (const [path, message] of known) form.setError(path, { message }, { shouldFocus: true });
  if (known.length === 0) form.setError('root', { message: problemText(error) });
}

function inputsOf(columns: ColumnInfo[], values: Record<string, Value>): Inputs {
  return Object.fromEntries(columns.map((column) => [column.path, inputOf(column, values[column.path] ?? null)]));
}

function inputOf(column: ColumnInfo, value: Value): string | string[] {
  if (column.type === 'several choices') return Array.isArray(value) ? value : [];
  if (value === null) return '';
  if (column.type === 'date and time') return String(value).replace(' ', 'T').slice(0, 16);
  return String(value);
}

/** An input that fits the column's type; the server's word is the last. */
function Input({ column, form }: { column: ColumnInfo; form: UseFormReturn<Inputs> }) {
  const fault = form.formState.errors[column.path]?.message as string | undefined;
  const register = form.register(column.path);
  if (column.type === 'several choices') {
    return (
      <fieldset className={rowLook}>
        <legend className="contents">
          <span className="text-soft text-sm pt-1.5">{column.label}</span>
        </legend>
        <div className="flex flex-wrap gap-x-4">
          {column.choices?.map((choice) => (
            <label key={choice} className="inline-flex min-h-8 items-center gap-2">
              <input type="checkbox" value={choice} {...register} /> {choice}
            </label>
          ))}
        </div>
        {fault && <p className="text-iron text-sm font-medium">{fault}</p>}
      </fieldset>
    );
  }
  return (
    <Field label={column.label} fault={fault} beside>
      {(ids) => {
        if (column.type === 'one choice' || column.type === 'yes/no') {
          const choices =
            column.type === 'yes/no'
              ? [
                  ['true', 'Yes'],
                  ['false', 'No'],
                ]
              : (column.choices ?? []).map((choice) => [choice, choice]);
          return (
            <select className="field" {...ids} {...register}>
              {column.nullable && <option value="">–</option>}
              {choices.map(([value, text]) => (
                <option key={value} value={value}>
                  {text}
                </option>
              ))}
            </select>
          );
        }
        if (column.type === 'long text' || (column.maxLength ?? 0) > 150)
          return <textarea rows={3} className="field" {...ids} {...register} />;
        const type =
          column.type === 'date'
            ? 'date'
            : column.type === 'date and time'
              ? 'datetime-local'
              : column.type === 'time'
                ? 'time'
                : 'text';
        return (
          <input
            className="field"
            type={type}
            inputMode={isNumeric(column.type) ? 'decimal' : undefined}
            autoComplete="off"
            {...ids}
            {...register}
          />
        );
      }}
    </Field>
  );
}
