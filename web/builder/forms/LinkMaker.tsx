import { useState } from 'react';
import { useMutation } from '@tanstack/react-query';
import { inputsOf, type Form } from '../../../core/definition/form';
import { findColumn, type Table } from '../../../core/table/catalogue';
import { fromPlain } from '../../../core/table/plain-text';
import { allRecords, bench } from '../../client/bench';
import { problemText, ServerProblem } from '../../client/http';
import { ColumnInput } from '../../records/ColumnInput';
import { Button } from '../../ui/Button';
import { CopyText } from '../../ui/CopyText';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { inputColumn } from '../bench/input-column';

/** Makes links to a form, with what it takes from a link alone. */
export function LinkMaker({ form, table }: { form: Form; table: Table }) {
  const { slug, draft } = useBench();
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [until, setUntil] = useState('');
  const [picked, setPicked] = useState('');
  const inputs = inputsOf(form).flatMap(({ column, label, signed }) => {
    const found = signed && findColumn(table, column);
    return found ? [{ column: found, label }] : [];
  });
  const pages = draft.pages.filter(({ sections }) =>
    sections.some((each) => each.kind === 'form' && (each as { form?: string }).form === form.id),
  );
  const page = picked || (pages[0]?.id ?? '');
  const make = useMutation({
    mutationFn: () =>
      bench(slug)('POST /forms/:form/links', {
        params: { form: form.id },
        body: {
          page,
          until: until || null,
          values: Object.fromEntries(
            inputs.map(({ column }) => [
              column.name,
              fromPlain({ ...column, nullable: true }, typed[column.name] ?? ''),
            ]),
          ),
        },
      }),
  });
  if (inputs.length === 0) return null;
  const faults = make.error instanceof ServerProblem ? ((make.error.body.fields ?? {}) as Record<string, string>) : {};
  if (pages.length === 0) return <Notice kind="say">Links to this form can be made once it stands on a page.</Notice>;
  return (
    <form
      aria-label="A link to it"
      className="grid gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <h3 className="text-sm font-semibold">A link to it</h3>
      <div className="grid gap-3 @min-[700px]:grid-cols-2">
        {inputs.map(({ column, label }) => {
          const input = inputColumn(draft, table, column);
          return (
            <Field key={column.name} label={label ?? input.label} fault={faults[column.name]}>
              {(ids) => (
                <ColumnInput
                  column={input}
                  value={typed[column.name] ?? ''}
                  onChange={(text) => setTyped((before) => ({ ...before, [column.name]: text }))}
                  place={{ base: allRecords(slug), table: table.name, id: null }}
                  inputProps={ids}
                />
              )}
            </Field>
          );
        })}
        {pages.length > 1 && (
          <Field label="On the page">
            {(ids) => (
              <Select {...ids} value={page} onPick={setPicked}>
                {pages.map(({ id, title }) => (
                  <option key={id} value={id}>
                    {title}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
        <Field label="Can be used until" hint="Empty is for good">
          {(ids) => (
            <input
              className="field"
              type="date"
              {...ids}
              value={until}
              onChange={(event) => setUntil(event.target.value)}
            />
          )}
        </Field>
      </div>
      {make.isError && Object.keys(faults).length === 0 && <Notice kind="fault">{problemText(make.error)}</Notice>}
      <span>
        <Button type="submit" small disabled={make.isPending}>
          Make the link
        </Button>
      </span>
      {make.data && (
        <div role="status" className="flex flex-wrap items-center gap-2">
          <CopyText text={make.data.link} />
          <p className="w-full text-sm text-soft">It works as the form is once that is published.</p>
        </div>
      )}
    </form>
  );
}
