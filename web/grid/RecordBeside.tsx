import { useEffect, useRef, useState, type FormEvent, type ReactNode } from 'react';
import { X } from 'lucide-react';
import { refusalText, type Outcome, type TableInfo } from '../client/grid';
import { problemText } from '../client/http';
import { pathsOf, useRecord, type ColumnInfo, type OpenRecord } from '../client/portal';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { ColumnInput } from '../records/ColumnInput';
import { RecordCell, titleIn } from '../records/RecordCell';
import type { useWrites } from './use-writes';

/** One record in full beside the grid; without an id, a new one. */
export function RecordBeside({
  base,
  info,
  id,
  writes,
  beneath,
  onClose,
}: {
  base: string;
  info: TableInfo;
  id: string | null;
  writes: ReturnType<typeof useWrites>;
  /** What stands below it. */
  beneath?: ReactNode;
  onClose: () => void;
}) {
  const record = useRecord(base, info.table, id ?? '', id === null ? [] : pathsOf(info.columns));
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
          record={null}
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
                            fromPlain(
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
          verb="Save"
          record={record.data.record}
          onSend={(typed) =>
            writes
              .change(
                Object.entries(typed).map(([path, text]) => ({
                  id,
                  path,
                  from: record.data.record.values[path],
                  to: fromPlain(
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
      {beneath}
    </aside>
  );
}

function RecordFields({
  base,
  id,
  info,
  columns,
  record,
  verb,
  onSend,
}: {
  base: string;
  id: string | null;
  info: TableInfo;
  columns: ColumnInfo[];
  /** Null for a new one. */
  record: OpenRecord | null;
  verb: string;
  onSend: (typed: Record<string, string>) => Promise<Outcome[]>;
}) {
  const values = record?.values ?? {};
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
  const text = (column: ColumnInfo) => typed[column.path] ?? plainText(values[column.path]);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void onSend(
      Object.fromEntries(Object.entries(typed).filter(([path, each]) => each !== plainText(values[path]))),
    ).then(([outcome]) => {
      setRefused(outcome ?? null);
      if (outcome?.done) setTyped({});
    });
  };
  return (
    <form ref={form} onSubmit={submit} className="grid gap-2.5">
      {columns.map((column) =>
        record && !record.editable.includes(column.path) ? (
          <div key={column.path} className="grid gap-0.5">
            <span className="text-sm font-semibold">{column.label}</span>
            <span className="min-h-7 break-words">
              <RecordCell base={base} table={info.table} column={column} record={record} />
            </span>
          </div>
        ) : (
          <Field key={column.path} label={column.label} fault={faults[column.path]}>
            {(ids) => (
              <ColumnInput
                column={column}
                value={text(column)}
                onChange={(next) => type(column.path, next)}
                place={{ base, table: info.table, id }}
                title={record && !(column.path in typed) ? titleIn(record, column) : null}
                inputProps={ids}
              />
            )}
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
