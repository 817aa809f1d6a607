import { useState } from 'react';
import type { Table } from '../../../core/table/catalogue';
import { problemText, ServerProblem } from '../../client/http';
import { useCeiling, useKeepCeiling, type CeilingForm } from '../../client/sources';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { Select } from '../../ui/Select';

/** The most that anybody may ever do with a table, whatever portal and role: kept at the source. */
export function CeilingEditor({ table }: { table: Table }) {
  const { slug } = useBench();
  const ceiling = useCeiling(slug, table.name);
  if (ceiling.isPending)
    return (
      <div className="p-4">
        <Skeleton lines={6} />
      </div>
    );
  if (ceiling.isError)
    return (
      <div className="p-4">
        <Notice kind="fault">{problemText(ceiling.error)}</Notice>
      </div>
    );
  return <Editor key={JSON.stringify(ceiling.data)} table={table} first={ceiling.data} />;
}

const operations = [
  ['create', 'New records may be made'],
  ['edit', 'Records may be changed'],
  ['delete', 'Records may be deleted'],
  ['export', 'Records may be taken out as a file'],
] as const;

function Editor({ table, first }: { table: Table; first: CeilingForm }) {
  const { slug } = useBench();
  const [form, setForm] = useState(first);
  const keep = useKeepCeiling(slug, table.name);
  const fields = keep.error instanceof ServerProblem ? ((keep.error.body.fields ?? {}) as Record<string, string>) : {};
  const isNew = JSON.stringify(form) !== JSON.stringify(first);
  const setColumn = (name: string, may: string) => {
    const { [name]: _was, ...others } = form.columns;
    setForm({ ...form, columns: may === '' ? others : { ...others, [name]: may as 'read' } });
  };
  return (
    <form
      className="grid content-start gap-4 p-4"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate(form);
      }}
    >
      <p className="max-w-160">
        This stands above every portal over this source, and above the workplace: whatever a role is granted, and
        whoever publishes, nobody gets more than this.
      </p>
      <fieldset className="grid gap-1.5">
        <legend className="mb-1 font-semibold">{table.name}</legend>
        {operations.map(([operation, words]) => (
          <label key={operation} className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={form[operation]}
              onChange={(event) => setForm({ ...form, [operation]: event.target.checked })}
            />{' '}
            {words}
          </label>
        ))}
      </fieldset>
      <div className="max-w-160">
        <Field
          label="Only these records, ever"
          hint={
            <>
              A condition such as <code className="font-code">state &lt;&gt; 'closed'</code>; empty for all. The
              workplace itself still shows all.
            </>
          }
          fault={
            fields.where ??
            (keep.error instanceof ServerProblem && keep.error.type === 'condition' ? keep.error.message : null)
          }
        >
          {(ids) => (
            <input
              className="field font-code"
              autoComplete="off"
              spellCheck={false}
              {...ids}
              value={form.where}
              onChange={(event) => setForm({ ...form, where: event.target.value })}
            />
          )}
        </Field>
      </div>
      <fieldset className="grid max-w-160 gap-1">
        <legend className="mb-1 font-semibold">Columns</legend>
        {table.columns.map((column) => (
          <label key={column.name} className="grid grid-cols-[1fr_14rem] items-center gap-3">
            <span>{column.name}</span>
            <Select value={form.columns[column.name] ?? ''} onPick={(picked) => setColumn(column.name, picked)}>
              <option value="">may be read and written</option>
              <option value="read">may be read</option>
              <option value="nothing">may not even be read</option>
            </Select>
          </label>
        ))}
      </fieldset>
      {keep.isError &&
        Object.keys(fields).length === 0 &&
        !(keep.error instanceof ServerProblem && keep.error.type === 'condition') && (
          <Notice kind="fault">{problemText(keep.error)}</Notice>
        )}
      <div className="flex items-center gap-3">
        <Button type="submit" weight="main" disabled={!isNew || keep.isPending}>
          Keep this ceiling
        </Button>
        {!isNew && keep.isSuccess && (
          <span role="status" className="font-semibold text-lichen-ink">
            Kept.
          </span>
        )}
      </div>
    </form>
  );
}
