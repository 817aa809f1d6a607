import { useEffect, useRef, useState, type FormEvent } from 'react';
import { X } from 'lucide-react';
import { refusalText, type Outcome, type TableInfo } from '../client/grid';
import { problemText } from '../client/http';
import { useRecord, type ColumnInfo } from '../client/portal';
import { Button } from '../ui/Button';
import { Cell } from '../ui/Cell';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { plainText, typedValue } from './block';
import FileInput from './FileCell';
import { RelationChoice } from './RelationChoice';
import type { useWrites } from './use-writes';

/** One record in full beside the grid; without an id, a new one. */
export function RecordBeside({
  base,
  info,
  id,
  writes,
  onClose,
}: {
  base: string;
  info: TableInfo;
  id: string | null;
  writes: ReturnType<typeof useWrites>;
  onClose: () => void;
}) {
  const paths = [...info.columns.map((column) => column.path), ...info.relations.flatMap(({ title }) => title ?? [])];
  const record = useRecord(base, info.table, id ?? '', id === null ? [] : paths);
  return (
    <aside
      aria-label={id === null ? 'New record' : 'Record'}
      className={
        'grid w-80 shrink-0 content-start gap-3 scroll-pb-16 overflow-y-auto border-y border-l border-line ' +
        'bg-paper p-3'
      }
    >
      <div className="flex items-center gap-2">
        <h2 className="flex-1 text-base">
          {id === null ? `New in ${info.label}` : `${info.label} ${decodeURIComponent(id)}`}
        </h2>
        <Button small weight="quiet" aria-label="Close the record" onClick={onClose}>
          <X size={15} aria-hidden />
        </Button>
      </div>
      {id !== null && record.isPending && <Skeleton lines={8} />}
      {id !== null && record.isError && <Notice kind="fault">{problemText(record.error)}</Notice>}
      {id === null && (
        <RecordFields
          base={base}
          id={null}
          info={info}
          columns={info.columns.filter(
            (column) => info.fills!.includes(column.path) && !info.key.includes(column.path),
          )}
          values={{}}
          verb="Add it"
          onSend={(typed) =>
            writes.add(
              [
                Object.fromEntries(
                  Object.entries(typed).flatMap(([path, text]) =>
                    text === ''
                      ? []
                      : [
                          [
                            path,
                            typedValue(
                              info.columns.find((column) => column.path === path)!,
                              text,
                            ),
                          ],
                        ],
                  ),
                ),
              ],
              'add a record',
            )
          }
        />
      )}
      {id !== null && record.data && (
        <RecordFields
          key={JSON.stringify(record.data.record.values)}
          base={base}
          id={id}
          info={info}
          columns={info.columns}
          values={record.data.record.values}
          masked={record.data.record.masked}
          editable={record.data.record.editable}
          verb="Save"
          titles={Object.fromEntries(
            info.relations.map(({ column, title }) => [
              column,
              title === null || record.data.record.masked.includes(title)
                ? null
                : plainText(record.data.record.values[title]) || null,
            ]),
          )}
          onSend={(typed) =>
            writes
              .change(
                Object.entries(typed).map(([path, text]) => ({
                  id,
                  path,
                  from: record.data.record.values[path],
                  to: typedValue(
                    info.columns.find((column) => column.path === path)!,
                    text,
                  ),
                  typed: text,
                })),
                'change a record',
              )
              .then((outcomes) => {
                if (outcomes[0]?.done) void record.refetch();
                return outcomes;
              })
          }
        />
      )}
    </aside>
  );
}

function RecordFields({
  base,
  id,
  info,
  columns,
  values,
  titles = {},
  masked = [],
  editable,
  verb,
  onSend,
}: {
  base: string;
  id: string | null;
  info: TableInfo;
  columns: ColumnInfo[];
  values: Record<string, unknown>;
  /** What the records are called that relations lead to, by column. */ titles?: Record<string, string | null>;
  masked?: string[];
  editable?: string[];
  verb: string;
  onSend: (typed: Record<string, string>) => Promise<Outcome[]>;
}) {
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [refused, setRefused] = useState<Outcome | null>(null);
  const faults =
    refused && !refused.done
      ? Object.fromEntries(Object.keys(refused.fields ?? {}).map((path) => [path, refusalText(refused, path)]))
      : {};
  const form = useRef<HTMLFormElement>(null);
  useEffect(() => {
    if (!refused || refused.done) return;
    const first = form.current?.querySelector<HTMLElement>('[aria-invalid="true"]');
    first?.focus({ preventScroll: true });
    first?.scrollIntoView({ block: 'center' });
  }, [refused]);
  const type = (path: string, text: string) => setTyped((before) => ({ ...before, [path]: text }));
  const text = (column: ColumnInfo) => typed[column.path] ?? plainText(values[column.path] as never);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void onSend(
      Object.fromEntries(Object.entries(typed).filter(([path, each]) => each !== plainText(values[path] as never))),
    ).then(([outcome]) => {
      setRefused(outcome ?? null);
      if (outcome?.done) setTyped({});
    });
  };
  return (
    <form ref={form} onSubmit={submit} className="grid gap-2.5">
      {columns.map((column) =>
        editable && !editable.includes(column.path) ? (
          <div key={column.path} className="grid gap-0.5">
            <span className="text-sm font-semibold">{column.label}</span>
            <span className="min-h-7 break-words">
              <Cell
                type={column.type}
                notes={column}
                value={values[column.path] as never}
                masked={masked.includes(column.path)}
              />
            </span>
          </div>
        ) : (
          <Field key={column.path} label={column.label} fault={faults[column.path]}>
            {(ids) => {
              const set = (event: { target: { value: string } }) => type(column.path, event.target.value);
              if (info.relations.some((each) => each.column === column.path))
                return (
                  <RelationChoice
                    base={base}
                    info={info}
                    column={column.path}
                    label={column.label}
                    value={text(column)}
                    title={column.path in typed ? null : (titles[column.path] ?? null)}
                    look="field"
                    inputProps={ids}
                    onChoose={(value) => type(column.path, value)}
                  />
                );
              if (column.kind === 'file')
                return (
                  <FileInput
                    base={base}
                    table={info.table}
                    id={id}
                    column={column.path}
                    label={column.label}
                    value={text(column)}
                    inputProps={ids}
                    onSent={(file) => type(column.path, file)}
                  />
                );
              if (column.type === 'long text')
                return <textarea rows={3} className="field" {...ids} value={text(column)} onChange={set} />;
              if (column.type === 'one choice' || column.type === 'yes/no') {
                return (
                  <select className="field" {...ids} value={text(column)} onChange={set}>
                    <option value="">–</option>
                    {(column.type === 'yes/no' ? ['true', 'false'] : (column.choices ?? [])).map((choice) => (
                      <option key={choice} value={choice}>
                        {choice === 'true' ? 'Yes' : choice === 'false' ? 'No' : choice}
                      </option>
                    ))}
                  </select>
                );
              }
              if (column.type === 'several choices')
                return (
                  <Several
                    id={ids.id}
                    label={column.label}
                    choices={column.choices ?? []}
                    value={text(column)}
                    onChange={(next) => type(column.path, next)}
                  />
                );
              return (
                <input
                  className="field"
                  type={column.type === 'date' ? 'date' : 'text'}
                  max={column.type === 'date' ? '9999-12-31' : undefined}
                  autoComplete="off"
                  {...ids}
                  value={text(column)}
                  onChange={set}
                />
              );
            }}
          </Field>
        ),
      )}
      {refused && !refused.done && Object.keys(faults).length === 0 && (
        <Notice kind="fault">{refusalText(refused)}</Notice>
      )}
      {/* Room for the last field above the press that stays in view. */}
      <div className="sticky -bottom-3 -mx-3 -mb-3 mt-2 border-t border-line bg-paper px-3 py-2">
        <Button type="submit" weight="main" disabled={Object.keys(typed).length === 0}>
          {verb}
        </Button>
      </div>
    </form>
  );
}

function Several({
  id,
  label,
  choices,
  value,
  onChange,
}: {
  id: string;
  label: string;
  choices: string[];
  value: string;
  onChange: (value: string) => void;
}) {
  const chosen = value
    .split(',')
    .map((each) => each.trim())
    .filter(Boolean);
  return (
    <div id={id} role="group" aria-label={label} className="grid gap-1">
      {choices.map((choice) => (
        <label key={choice} className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={chosen.includes(choice)}
            onChange={(event) =>
              onChange(
                choices.filter((each) => (each === choice ? event.target.checked : chosen.includes(each))).join(', '),
              )
            }
          />{' '}
          {choice}
        </label>
      ))}
    </div>
  );
}
