import { counted } from '../../../core/text/counted';
import { useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { problemText, ServerProblem } from '../../client/http';
import { useChooseTables, useFurtherSource, useTableChoice } from '../../client/sources';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { SourceFields } from '../bench/SourceFields';
import { StageHead } from '../bench/StageFrame';

/** Where the portal's records are: its own source, and further ones that its pages may look into. */
export function FurtherSources({ onClose }: { onClose: () => void }) {
  const { slug, draft } = useBench();
  const further = useFurtherSource(slug);
  const form = useForm({ defaultValues: { name: '', connection: '', schema: '' } });
  const { errors } = form.formState;
  const chosen = useWatch({ control: form.control, name: 'connection' });
  const add = form.handleSubmit((values) =>
    further
      .mutateAsync({ add: values })
      .then(() => form.reset())
      .catch((error: unknown) => {
        const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
        const faults =
          error instanceof ServerProblem ? ((error.body.faults ?? []) as { place: string; reason: string }[]) : [];
        for (const [name, message] of [
          ...Object.entries(fields),
          ...faults.map(({ place, reason }) => [place, `${reason}.`] as const),
        ])
          form.setError(name as 'name', { message });
      }),
  );
  const where = ({ connection, schema }: { connection?: string; schema: string }) =>
    `${schema}, in ${connection ?? "Stone Porch's own database"}`;
  return (
    <>
      <StageHead title="Sources">
        <Button small onClick={onClose}>
          Close
        </Button>
      </StageHead>
      <div className="grid gap-4 p-4">
        <dl className="grid grid-cols-[auto_1fr_auto] items-center gap-x-4 gap-y-2">
          <dt className="font-semibold">its own</dt>
          <dd>
            {where(draft.source)}
            {draft.source.connection !== undefined && <TableChoice name={null} />}
          </dd>
          <dd />
          {Object.entries(draft.sources ?? {}).map(([name, source]) => [
            <dt key={`${name} name`} className="font-semibold">
              {name}
            </dt>,
            <dd key={`${name} where`}>
              {where(source)}
              <TableChoice name={name} />
            </dd>,
            <dd key={`${name} out`}>
              <Button small disabled={further.isPending} onClick={() => further.mutate({ remove: name })}>
                Take out {name}
              </Button>
            </dd>,
          ])}
        </dl>
        {further.isError &&
          !(further.error instanceof ServerProblem && (further.error.body.fields || further.error.body.faults)) && (
            <Notice kind="fault">{problemText(further.error)}</Notice>
          )}
        <form
          aria-label="A further source"
          noValidate
          onSubmit={(event) => void add(event)}
          className="grid gap-4 rounded-stone border border-line p-4"
        >
          <h2 className="text-base">A further source</h2>
          <p className="max-w-160 text-soft">
            Its tables stand beside those of the portal, with rules and pages of their own. A relation into it is
            followed by value: pages show what is there, and can't be sorted or filtered by it. Members come from the
            portal's own source.
          </p>
          <div className="grid gap-4 sm:grid-cols-3">
            <Field label="Short name" hint="Tables are called name:table" fault={errors.name?.message}>
              {(ids) => (
                <input
                  className="field font-code"
                  autoComplete="off"
                  {...ids}
                  {...form.register('name', { required: 'Give it a short name.' })}
                />
              )}
            </Field>
            <SourceFields
              chosen={chosen}
              faults={errors}
              control={form.control}
              onConnection={() => form.setValue('schema', '')}
            />
          </div>
          <div>
            <Button type="submit" weight="main" disabled={further.isPending}>
              Add it
            </Button>
          </div>
        </form>
      </div>
    </>
  );
}

/** Which tables of a source the portal may use. */
function TableChoice({ name }: { name: string | null }) {
  const { slug, draft } = useBench();
  const [open, setOpen] = useState(false);
  const chosen = (name === null ? draft.source : draft.sources![name]!).tables;
  return (
    <div>
      <button
        type="button"
        className="text-sm text-water underline"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {chosen ? `${chosen.length} of its tables` : 'all of its tables'}
      </button>
      {open && <ChooseTables key={slug} name={name} onDone={() => setOpen(false)} />}
    </div>
  );
}

function ChooseTables({ name, onDone }: { name: string | null; onDone: () => void }) {
  const { slug } = useBench();
  const choice = useTableChoice(slug, name);
  const choose = useChooseTables(slug);
  const [ticked, setTicked] = useState<string[] | null>(null);
  if (choice.isPending) return <Skeleton lines={3} />;
  if (choice.isError) return <Notice kind="fault">{problemText(choice.error)}</Notice>;
  const { tables } = choice.data;
  const now = ticked ?? choice.data.chosen ?? tables;
  const all = tables.every((table) => now.includes(table));
  return (
    <form
      aria-label={`Tables of ${name ?? 'the source'}`}
      className="mt-1 grid gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        choose.mutate({ name, tables: all ? null : now }, { onSuccess: onDone });
      }}
    >
      <div className="flex gap-2">
        <Button small onClick={() => setTicked(tables)}>
          Tick all
        </Button>
        <Button small onClick={() => setTicked([])}>
          Tick none
        </Button>
      </div>
      <div className="max-h-60 columns-2 overflow-y-auto rounded-stone border border-line p-2">
        {tables.map((table) => (
          <label key={table} className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={now.includes(table)}
              onChange={(event) =>
                setTicked(event.target.checked ? [...now, table] : now.filter((each) => each !== table))
              }
            />{' '}
            {table}
          </label>
        ))}
      </div>
      {choose.isError && <Notice kind="fault">{problemText(choose.error)}</Notice>}
      <div>
        <Button type="submit" disabled={choose.isPending || now.length === 0 || ticked === null}>
          {all
            ? 'Use all tables'
            : `Use ${now.filter((table) => tables.includes(table)).length} of ${counted(tables.length, 'table')}`}
        </Button>
      </div>
    </form>
  );
}
