import { useEffect, useRef, useState, type FormEvent } from 'react';
import { fromPlain } from '../../core/table/plain-text';
import { useQueryClient } from '@tanstack/react-query';
import { useTableInfo, type TableInfo } from '../client/grid';
import { problemText, ServerProblem } from '../client/http';
import { records, type ColumnInfo } from '../client/portal';
import { useDone } from '../place/done';
import { SpotLink, usePlace } from '../place/place';
import { ColumnInput } from '../records/ColumnInput';
import { Button, buttonLook } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { faultsIn } from '../records/field-faults';

/** A record that is being made: what may be filled, the sheet's columns first. */
export function NewRecord({ table, sheet }: { table: string; sheet: ColumnInfo[] }) {
  const { base, spot } = usePlace();
  const info = useTableInfo(base, table);
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus({ preventScroll: true }), []);
  return (
    <section aria-label="New record" className="grid content-start gap-4 p-4 @min-[560px]:p-5">
      <div className="flex items-start gap-3">
        <h2 ref={heading} tabIndex={-1} className="flex-1 min-w-0 break-words outline-none pt-0.5">
          New in {info.data?.label ?? '…'}
        </h2>
        <SpotLink to={{ ...spot, record: null }} className={`no-print ${buttonLook('plain', true)}`}>
          Close
        </SpotLink>
      </div>
      {info.isPending && <Skeleton lines={6} />}
      {info.isError && <Notice kind="fault">{problemText(info.error)}</Notice>}
      {info.data &&
        (info.data.fills === null ? (
          <Notice kind="say">You can&apos;t add anything here.</Notice>
        ) : (
          <NewForm table={table} columns={inOrder(sheet, info.data)} />
        ))}
    </section>
  );
}

/**
 * As the sheet has them, a relation where something of its record stands, then the others. The number that the product
 * or the database gives is not asked for.
 */
function inOrder(sheet: ColumnInfo[], { columns, fills, key }: TableInfo): ColumnInfo[] {
  const place = ({ path, relation }: ColumnInfo) => {
    const at = sheet.findIndex((each) => each.path === path || (relation && each.path.startsWith(`${relation.name}.`)));
    return at < 0 ? sheet.length : at;
  };
  return columns
    .filter(
      ({ path, identifies, relation }) => fills!.includes(path) && !(identifies && !relation && key.includes(path)),
    )
    .toSorted((one, other) => place(one) - place(other));
}

function NewForm({ table, columns }: { table: string; columns: ColumnInfo[] }) {
  const { base, spot, go, seenBy, setUnsaved } = usePlace();
  const client = useQueryClient();
  const say = useDone();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [faults, setFaults] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const form = useRef<HTMLFormElement>(null);
  const dirty = Object.values(typed).some((text) => text !== '');
  useEffect(() => {
    setUnsaved(dirty);
    return () => setUnsaved(false);
  }, [dirty, setUnsaved]);
  useEffect(() => {
    if (Object.keys(faults).length > 0) form.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
  }, [faults]);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    const values = Object.fromEntries(
      columns.flatMap((column) => {
        const text = typed[column.path] ?? '';
        return text === '' ? [] : [[column.path, fromPlain(column, text)]];
      }),
    );
    try {
      const made = await records(base)('POST /records/:table', { params: { table }, body: { values } });
      setUnsaved(false);
      await client.invalidateQueries({ queryKey: [base] });
      say({ words: made.record ? 'Added.' : 'Added. It is not among what you see here.' });
      const section = spot.record!.section;
      go({ ...spot, record: made.record?.id ? { section, id: made.record.id } : null }, { replace: true });
    } catch (error) {
      if (!(error instanceof ServerProblem)) throw error;
      setFaults(faultsIn(error, columns));
    } finally {
      setBusy(false);
    }
  };
  return (
    <form ref={form} onSubmit={(event) => void send(event)} noValidate className="grid gap-4">
      <div className="grid gap-x-4 gap-y-3">
        {columns.map((column) => (
          <Field key={column.path} label={column.label} fault={faults[column.path]} beside>
            {(ids) => (
              <ColumnInput
                column={column}
                value={typed[column.path] ?? ''}
                onChange={(text) => setTyped((before) => ({ ...before, [column.path]: text }))}
                place={{ base, table, id: null }}
                inputProps={ids}
              />
            )}
          </Field>
        ))}
      </div>
      {faults[''] && <Notice kind="fault">{faults['']}</Notice>}
      <div className="flex flex-wrap items-center gap-3">
        <Button type="submit" weight="main" disabled={busy || seenBy}>
          {busy ? 'Adding …' : 'Add it'}
        </Button>
        {seenBy && <span className="text-sm text-soft">Seen by changes nothing.</span>}
      </div>
    </form>
  );
}
