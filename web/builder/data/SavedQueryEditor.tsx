import { useState } from 'react';
import type { Table } from '../../../core/table/catalogue';
import { problemText, ServerProblem } from '../../client/http';
import { useForgetQuery, useQueries, useSaveQuery, type SavedQuery } from '../../client/sources';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { StageHead } from '../bench/StageFrame';

/** One SELECT, kept as a table that can be read and granted like any other. */
export function SavedQueryEditor({
  known,
  first,
  onDone,
  onCancel,
}: {
  known: SavedQuery | null;
  /** What to begin with, of one that is not kept yet. */ first?: SavedQuery | null;
  onDone: (table: string) => void;
  onCancel: () => void;
}) {
  const { slug } = useBench();
  const [form, setForm] = useState<SavedQuery>(known ?? first ?? { name: '', text: '', key: [] });
  const tried = useSaveQuery(slug);
  const kept = useSaveQuery(slug);
  const error = kept.error ?? tried.error;
  const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
  const faults =
    error instanceof ServerProblem ? ((error.body.faults ?? []) as { place: string; reason: string }[]) : [];
  const set = (change: Partial<SavedQuery>) => {
    setForm({ ...form, ...change });
    tried.reset();
    kept.reset();
  };
  const columns = tried.data?.columns ?? [];
  return (
    <>
      <StageHead title={known ? `The query ${known.name}` : 'A table from a query'}>
        <Button small onClick={onCancel}>
          Cancel
        </Button>
      </StageHead>
      <form
        className="grid content-start gap-4 p-4"
        onSubmit={(event) => {
          event.preventDefault();
          tried.mutate({ ...form, key: [], keep: false });
        }}
      >
        {!known && (
          <div className="max-w-80">
            <Field
              label="Name of the table"
              hint="Lower-case letters, digits and _"
              fault={fields.name ?? faults.find((each) => each.place === 'name')?.reason}
            >
              {(ids) => (
                <input
                  className="field font-code"
                  autoComplete="off"
                  {...ids}
                  value={form.name}
                  onChange={(event) => set({ name: event.target.value })}
                />
              )}
            </Field>
          </div>
        )}
        <Field
          label="One SELECT"
          hint="Over the tables of this source; it may compute, but nothing else. Each column needs a name."
          fault={fields.text}
        >
          {(ids) => (
            <textarea
              rows={8}
              spellCheck={false}
              className="field font-code text-sm"
              {...ids}
              value={form.text}
              onChange={(event) => set({ text: event.target.value })}
            />
          )}
        </Field>
        {tried.data && (
          <fieldset className="grid gap-1">
            <legend className="mb-1 text-sm font-semibold">
              Its columns. Tick those that tell the records apart, so that one can be opened.
            </legend>
            {columns.map((column) => (
              <label key={column.name} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={form.key.includes(column.name)}
                  onChange={(event) => {
                    setForm({
                      ...form,
                      key: event.target.checked
                        ? [...form.key, column.name]
                        : form.key.filter((each) => each !== column.name),
                    });
                    kept.reset();
                  }}
                />{' '}
                {column.name} <span className="text-sm text-soft">{column.type}</span>
              </label>
            ))}
            {fields.key && <p className="text-sm font-medium text-iron">{fields.key}</p>}
          </fieldset>
        )}
        {error && Object.keys(fields).length === 0 && faults.length === 0 && (
          <Notice kind="fault">{problemText(error)}</Notice>
        )}
        <div className="flex gap-2">
          <Button
            type="submit"
            weight={tried.data ? 'plain' : 'main'}
            disabled={form.text.trim() === '' || form.name === '' || tried.isPending}
          >
            Try it
          </Button>
          {tried.data && (
            <Button
              weight="main"
              disabled={kept.isPending}
              onClick={() => kept.mutate({ ...form, keep: true }, { onSuccess: () => onDone(form.name) })}
            >
              Keep {form.name} as a table
            </Button>
          )}
        </div>
      </form>
    </>
  );
}

/** Above the columns of a table that is a query: what it is, and ways to change it. */
export function SavedQuery({ table, onGone }: { table: Table; onGone: () => void }) {
  const { slug } = useBench();
  const queries = useQueries(slug);
  const forget = useForgetQuery(slug);
  const [changing, setChanging] = useState(false);
  const known = queries.data?.queries.find((query) => query.name === table.name);
  if (changing && known)
    return <SavedQueryEditor known={known} onCancel={() => setChanging(false)} onDone={() => setChanging(false)} />;
  return (
    <div className="grid gap-2 p-4 pb-2">
      <p>A saved query: it can be read and granted like any table, and never written.</p>
      <pre className="rounded-stone border border-line bg-sunk p-3 font-code text-sm break-words whitespace-pre-wrap">
        {table.query}
      </pre>
      <div className="flex gap-2">
        <Button small disabled={!known} onClick={() => setChanging(true)}>
          Change the query
        </Button>
        <Button
          small
          weight="danger"
          disabled={forget.isPending}
          onClick={() => forget.mutate(table.name, { onSuccess: onGone })}
        >
          Delete it
        </Button>
      </div>
      {forget.isError && <Notice kind="fault">{problemText(forget.error)}</Notice>}
    </div>
  );
}
