import { useForm, useWatch } from 'react-hook-form';
import { problemText, ServerProblem } from '../../client/http';
import { useConnections, useSourceSchemas } from '../../client/builder';
import { useFurtherSource } from '../../client/sources';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench-context';
import { StageHead } from '../StageFrame';

/** Where the portal's records are: its own source, and further ones that its pages may look into. */
export function FurtherSources({ onClose }: { onClose: () => void }) {
  const { slug, draft } = useBench();
  const connections = useConnections();
  const further = useFurtherSource(slug);
  const form = useForm({ defaultValues: { name: '', connection: '', schema: '' } });
  const { errors } = form.formState;
  const schemas = useSourceSchemas(useWatch({ control: form.control, name: 'connection' }));
  const add = form.handleSubmit((values) => further.mutateAsync({ add: values }).then(() => form.reset()).catch((error: unknown) => {
    const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
    const faults = error instanceof ServerProblem ? ((error.body.faults ?? []) as { place: string; reason: string }[]) : [];
    for (const [name, message] of [...Object.entries(fields), ...faults.map(({ place, reason }) => [place, `${reason}.`] as const)]) form.setError(name as 'name', { message });
  }));
  const where = ({ connection, schema }: { connection?: string; schema: string }) => `${schema}, in ${connection ?? 'Stone Porch\'s own database'}`;
  return (
    <>
      <StageHead title="Sources"><Button small onClick={onClose}>Close</Button></StageHead>
      <div className="grid gap-4 p-4">
        <dl className="grid grid-cols-[auto_1fr_auto] items-center gap-x-4 gap-y-2">
          <dt className="font-semibold">its own</dt><dd>{where(draft.source)}</dd><dd />
          {Object.entries(draft.sources ?? {}).map(([name, source]) => [
            <dt key={`${name} name`} className="font-semibold">{name}</dt>, <dd key={`${name} where`}>{where(source)}</dd>,
            <dd key={`${name} out`}><Button small disabled={further.isPending} onClick={() => further.mutate({ remove: name })}>Take out {name}</Button></dd>,
          ])}
        </dl>
        {further.isError && !(further.error instanceof ServerProblem && (further.error.body.fields || further.error.body.faults)) && <Notice kind="fault">{problemText(further.error)}</Notice>}
        <form aria-label="A further source" noValidate onSubmit={(event) => void add(event)} className="grid gap-4 rounded-stone border border-line p-4">
          <h2 className="text-base">A further source</h2>
          <p className="max-w-160 text-soft">Its tables stand beside those of the portal, with rules and pages of their own. A relation into it is followed by value: pages show what is there, and can't be sorted or filtered by it. Members come from the portal's own source.</p>
          <div className="grid gap-4 sm:grid-cols-3">
            <Field label="Short name" hint="Tables are called name:table" fault={errors.name?.message}>{(ids) => <input className="field font-code" autoComplete="off" {...ids} {...form.register('name', { required: 'Give it a short name.' })} />}</Field>
            <Field label="Records are in" fault={errors.connection?.message}>{(ids) => (
              <select className="field" {...ids} {...form.register('connection', { onChange: () => form.setValue('schema', '') })}>
                <option value="">Stone Porch's own database</option>
                {connections.data?.connections.map(({ name }) => <option key={name}>{name}</option>)}
              </select>
            )}</Field>
            <Field label="Database schema" fault={errors.schema?.message ?? (schemas.isError ? problemText(schemas.error) : null)}>{(ids) => (
              <select className="field" {...ids} {...form.register('schema', { required: 'Choose where the records are.' })}>
                <option value="">choose</option>
                {schemas.data?.schemas.map((schema) => <option key={schema}>{schema}</option>)}
              </select>
            )}</Field>
          </div>
          <div><Button type="submit" weight="main" disabled={further.isPending}>Add it</Button></div>
        </form>
      </div>
    </>
  );
}
