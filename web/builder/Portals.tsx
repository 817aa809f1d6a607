import { useForm, useWatch } from 'react-hook-form';
import { useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import { workplace } from '../client/bench';
import { problemText, ServerProblem } from '../client/http';
import { useBuilder, usePortals } from '../client/builder';
import { benchDoor, doorAt } from '../client/portal';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { Arch } from '../ui/Stones';
import { Connections } from './Connections';
import { FromFile } from './definition/FromFile';
import { newSchema, SourceFields } from './bench/SourceFields';
import { FormSelect } from '../ui/FormSelect';

/** The builder's portals, and a form for a new one. */
export function Portals() {
  const portals = usePortals();
  const builder = useBuilder();
  const client = useQueryClient();
  const signOut = async () => {
    await doorAt(benchDoor)('POST /sign-out');
    client.clear();
    window.location.reload();
  };
  return (
    <main className="mx-auto grid max-w-220 gap-8 p-6">
      <div className="flex flex-wrap items-center gap-3">
        <Arch size={40} />
        <h1 className="flex-1">Stone Porch</h1>
        {builder.data?.right === 'owner' && <Link to="/colleagues">Colleagues</Link>}
        <Link to="/own">Your sign-in</Link>
        <span className="text-soft">
          {builder.data?.name}
          {builder.data?.right === 'reader' && ', who looks'}
        </span>
        <Button small onClick={() => void signOut()}>
          Sign out
        </Button>
      </div>
      <section className="grid gap-3">
        <h2>Portals</h2>
        {portals.isPending && <Skeleton lines={2} />}
        {portals.isError && <Notice kind="fault">{problemText(portals.error)}</Notice>}
        {portals.data?.portals.length === 0 && (
          <Notice kind="say">There is no portal yet. Make the first one below.</Notice>
        )}
        <ul className="grid gap-2">
          {portals.data?.portals.map((portal) => (
            <li
              key={portal.slug}
              className="flex flex-wrap items-center gap-x-4 rounded-stone border border-line bg-paper px-4 py-3"
            >
              <Link to={`/build/${portal.slug}/data`} className="font-head text-lg font-bold text-ink">
                {portal.name}
              </Link>
              <span className="text-soft">
                {portal.publishedVersion === null ? 'not published yet' : `version ${portal.publishedVersion} is live`}
              </span>
              {portal.publishedVersion !== null && (
                <a className="ml-auto" href={`/p/${portal.slug}`}>
                  /p/{portal.slug}
                </a>
              )}
            </li>
          ))}
        </ul>
      </section>
      {builder.data?.right !== 'reader' && <NewPortal />}
      {builder.data?.right !== 'reader' && <FromFile />}
      <Connections />
    </main>
  );
}

/** All zones that there are, with the browser's own among them. */
function zones(): string[] {
  const known = Intl.supportedValuesOf('timeZone');
  return [...new Set([Intl.DateTimeFormat().resolvedOptions().timeZone, 'UTC', ...known])].toSorted();
}

/** An address that a name gives: its letters without their marks, what stands between them as one dash. */
function addressOf(name: string): string {
  return name
    .normalize('NFKD')
    .replaceAll(/\p{M}/gu, '')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replace(/^[-\d]+/, '')
    .slice(0, 40)
    .replace(/-+$/, '');
}

function NewPortal() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const form = useForm({
    defaultValues: {
      name: '',
      slug: '',
      connection: '',
      schema: '',
      newSchema: '',
      timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    },
  });
  const { errors } = form.formState;
  const chosen = useWatch({ control: form.control, name: 'connection' });
  const makes = useWatch({ control: form.control, name: 'schema' }) === newSchema;
  const slug = useWatch({ control: form.control, name: 'slug' });
  const made = useWatch({ control: form.control, name: 'newSchema' });
  /** As long as nobody has written another, the address follows the name. */
  const follow = (name: string) => {
    if (!form.getFieldState('slug').isDirty) form.setValue('slug', addressOf(name));
  };
  const submit = form.handleSubmit(async (values) => {
    try {
      const { newSchema: _made, ...rest } = values;
      const schema = makes ? `portal_${made}` : rest.schema;
      await workplace('POST /portals', { body: { ...rest, schema, makeSchema: makes } });
      await client.invalidateQueries({ queryKey: ['builder', 'portals'] });
      await navigate(`/build/${values.slug}/data`);
    } catch (error) {
      const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
      const faults =
        error instanceof ServerProblem ? ((error.body.faults ?? []) as { place: string; reason: string }[]) : [];
      for (const [name, message] of Object.entries(fields)) form.setError(name as 'slug', { message });
      const shown = ['slug', 'name', 'timeZone', 'schema'] as const;
      for (const { place, reason } of faults) {
        const field = shown.find((each) => place.endsWith(each));
        if (field)
          form.setError(field, {
            message:
              field === 'slug'
                ? 'Use lower-case letters, digits and -, and begin with a letter.'
                : field === 'timeZone'
                  ? 'There is no such time zone. Choose one of the list.'
                  : `This ${reason}.`,
          });
      }
      if (Object.keys(fields).length === 0 && !faults.some(({ place }) => shown.some((each) => place.endsWith(each))))
        form.setError('root', { message: problemText(error) });
    }
  });
  return (
    <form
      onSubmit={(event) => void submit(event)}
      noValidate
      className="grid gap-4 rounded-stone border border-line bg-paper p-5"
    >
      <h2>New portal</h2>
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label="Name" fault={errors.name?.message}>
          {(ids) => (
            <input
              className="field"
              {...ids}
              {...form.register('name', {
                required: 'Give it a name.',
                onChange: (event: { target: { value: string } }) => follow(event.target.value),
              })}
            />
          )}
        </Field>
        <Field label="Address" hint={`Members find it at /p/${slug || 'address'}`} fault={errors.slug?.message}>
          {(ids) => (
            <input className="field" {...ids} {...form.register('slug', { required: 'Give it an address.' })} />
          )}
        </Field>
        <SourceFields
          chosen={chosen}
          faults={errors}
          control={form.control}
          onConnection={() => form.setValue('schema', '')}
          mayMake
        />
        {makes && (
          <Field
            label="Name of the new schema"
            hint={`Lower-case letters, digits and _; the database calls it portal_${made || '…'}`}
            fault={errors.newSchema?.message}
          >
            {(ids) => (
              <input
                className="field"
                {...ids}
                {...form.register('newSchema', {
                  required: 'Give it a name.',
                  pattern: { value: /^[a-z0-9_]{1,50}$/, message: 'Use lower-case letters, digits and _, 50 at most.' },
                })}
              />
            )}
          </Field>
        )}
        <Field label="Time zone" fault={errors.timeZone?.message}>
          {(ids) => (
            <FormSelect {...ids} control={form.control} name="timeZone">
              {zones().map((zone) => (
                <option key={zone} value={zone}>
                  {zone.replaceAll('_', ' ')}
                </option>
              ))}
            </FormSelect>
          )}
        </Field>
      </div>
      {errors.root && <Notice kind="fault">{errors.root.message}</Notice>}
      <div>
        <Button type="submit" weight="main" disabled={form.formState.isSubmitting}>
          Make the portal
        </Button>
      </div>
    </form>
  );
}
