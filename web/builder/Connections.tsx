import { useState } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { useQueryClient } from '@tanstack/react-query';
import { Database } from 'lucide-react';
import { workplace } from '../client/bench';
import { problemText, ServerProblem } from '../client/http';
import {
  useBuilders,
  useConnections,
  type ConnectionForm,
  type ConnectionInfo,
  type TriedConnection,
} from '../client/builder';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { FormSelect } from '../ui/FormSelect';

const kindWords = { mariadb: 'MariaDB or MySQL', postgresql: 'PostgreSQL' };
const ports = { mariadb: 3306, postgresql: 5432 };
const tlsWords = { off: 'none', on: 'TLS', verified: 'TLS, and the certificate must be trusted' };

/** The databases that portals may have their records in, beside the product's own. */
export function Connections() {
  const connections = useConnections();
  const [open, setOpen] = useState<string | null>(null);
  return (
    <section className="grid gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="flex-1">Connected databases</h2>
        <Button onClick={() => setOpen(open === '' ? null : '')} aria-expanded={open === ''}>
          Connect a database
        </Button>
      </div>
      {connections.isPending && <Skeleton lines={2} />}
      {connections.isError && <Notice kind="fault">{problemText(connections.error)}</Notice>}
      {connections.data?.connections.length === 0 && open !== '' && (
        <p className="text-soft">
          None yet. Portals can use the schemas of the product's own database, or a database of yours.
        </p>
      )}
      {open === '' && <ConnectionEditor key="new" known={null} onDone={() => setOpen(null)} />}
      <ul className="grid gap-2">
        {connections.data?.connections.map((connection) => (
          <li key={connection.name} className="grid gap-3 rounded-stone border border-line bg-paper px-4 py-3">
            <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
              <Database size={16} aria-hidden className="text-soft" />
              <strong>{connection.name}</strong>
              <span className="text-soft">
                {kindWords[connection.kind]} at {connection.host}, port {connection.port}
                {connection.database && `, database ${connection.database}`}, as {connection.user}
              </span>
              <Button
                small
                className="ml-auto"
                aria-expanded={open === connection.name}
                onClick={() => setOpen(open === connection.name ? null : connection.name)}
              >
                Change
              </Button>
            </div>
            {open === connection.name && <ConnectionEditor known={connection} onDone={() => setOpen(null)} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A form that tries before it keeps. What was typed stays whatever the database answers. */
function ConnectionEditor({ known, onDone }: { known: ConnectionInfo | null; onDone: () => void }) {
  const client = useQueryClient();
  const [tried, setTried] = useState<TriedConnection | null>(null);
  const form = useForm<ConnectionForm>({
    defaultValues: known
      ? { ...fieldsOf(known), password: '' }
      : {
          name: '',
          kind: 'postgresql',
          host: '',
          port: ports.postgresql,
          database: '',
          user: '',
          password: '',
          tls: 'on',
          builders: null,
        },
  });
  const { errors, isSubmitting } = form.formState;
  const kind = useWatch({ control: form.control, name: 'kind' });
  const builders = useWatch({ control: form.control, name: 'builders' });

  const send = (keep: boolean) =>
    form.handleSubmit(async (values) => {
      setTried(null);
      try {
        const body = { ...values, port: Number(values.port) };
        setTried(await (keep ? workplace('PUT /connections', { body }) : workplace('POST /connections/try', { body })));
        if (!keep) return;
        await client.invalidateQueries({ queryKey: ['builder', 'connections'] });
        onDone();
      } catch (error) {
        const fields = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
        const faults =
          error instanceof ServerProblem ? ((error.body.faults ?? []) as { place: string; reason: string }[]) : [];
        for (const [name, message] of [
          ...Object.entries(fields),
          ...faults.map(({ place, reason }) => [place, `${reason}.`] as const),
        ])
          form.setError(name as 'host', { message });
        if (Object.keys(fields).length + faults.length === 0) form.setError('root', { message: problemText(error) });
      }
    });
  const remove = async () => {
    try {
      await workplace('DELETE /connections/:name', { params: { name: known!.name } });
      await client.invalidateQueries({ queryKey: ['builder', 'connections'] });
      onDone();
    } catch (error) {
      form.setError('root', { message: problemText(error) });
    }
  };
  return (
    <form
      onSubmit={(event) => void send(true)(event)}
      noValidate
      aria-label={known ? `Change ${known.name}` : 'Connect a database'}
      className={`grid gap-4 ${known ? '' : 'rounded-stone border border-line bg-paper p-5'}`}
    >
      <div className="grid gap-4 sm:grid-cols-2">
        {!known && (
          <Field
            label="Name of the connection"
            hint="Portals call it by this. Lower-case letters, digits, - and _"
            fault={errors.name?.message}
          >
            {(ids) => (
              <input
                className="field"
                autoComplete="off"
                {...ids}
                {...form.register('name', { required: 'Give it a name.' })}
              />
            )}
          </Field>
        )}
        <Field label="Kind of database" fault={errors.kind?.message}>
          {(ids) => (
            <FormSelect
              {...ids}
              control={form.control}
              name="kind"
              onPicked={(picked) => form.setValue('port', ports[picked as keyof typeof ports])}
            >
              {Object.entries(kindWords).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </FormSelect>
          )}
        </Field>
        <div className="grid grid-cols-[1fr_6rem] gap-3">
          <Field label="Host" fault={errors.host?.message}>
            {(ids) => (
              <input
                className="field"
                autoComplete="off"
                {...ids}
                {...form.register('host', { required: 'Where does it run?' })}
              />
            )}
          </Field>
          <Field label="Port" fault={errors.port?.message}>
            {(ids) => (
              <input
                className="field"
                inputMode="numeric"
                autoComplete="off"
                {...ids}
                {...form.register('port', { required: 'Which port?' })}
              />
            )}
          </Field>
        </div>
        {kind === 'postgresql' && (
          <Field label="Database" fault={errors.database?.message}>
            {(ids) => (
              <input
                className="field"
                autoComplete="off"
                {...ids}
                {...form.register('database', { required: 'Which database there?' })}
              />
            )}
          </Field>
        )}
        <Field label="User" fault={errors.user?.message}>
          {(ids) => (
            <input
              className="field"
              autoComplete="off"
              {...ids}
              {...form.register('user', { required: 'Who signs in there?' })}
            />
          )}
        </Field>
        <Field
          label="Password"
          hint={
            known
              ? 'Empty keeps the one that is there, as long as host and user stay.'
              : 'Kept encrypted, and never shown again.'
          }
          fault={errors.password?.message}
        >
          {(ids) => (
            <input
              type="password"
              className="field"
              autoComplete="new-password"
              {...ids}
              {...form.register('password')}
            />
          )}
        </Field>
        <Field label="Encryption" fault={errors.tls?.message}>
          {(ids) => (
            <FormSelect {...ids} control={form.control} name="tls">
              {Object.entries(tlsWords).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </FormSelect>
          )}
        </Field>
      </div>
      <WhoMayUse
        value={builders}
        fault={errors.builders?.message}
        onChange={(next) => form.setValue('builders', next, { shouldDirty: true })}
      />
      {errors.root && <Notice kind="fault">{errors.root.message}</Notice>}
      {tried && (
        <Notice kind="say">
          It works.{' '}
          {tried.schemas.length === 0 ? 'This account sees no schema.' : `Schemas there: ${tried.schemas.join(', ')}.`}
        </Notice>
      )}
      {tried?.warnings.map((warning) => (
        <Notice key={warning} kind="warn">
          {warning}
        </Notice>
      ))}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" weight="main" disabled={isSubmitting}>
          {known ? 'Keep the changes' : 'Connect it'}
        </Button>
        <Button disabled={isSubmitting} onClick={() => void send(false)()}>
          Try it
        </Button>
        <Button weight="quiet" onClick={onDone}>
          Cancel
        </Button>
        {known && known.usedBy.length === 0 && (
          <Button weight="danger" className="ml-auto" onClick={() => void remove()}>
            Disconnect {known.name}
          </Button>
        )}
        {known && known.usedBy.length > 0 && (
          <span className="ml-auto self-center text-soft">holds the records of {known.usedBy.join(', ')}</span>
        )}
      </div>
    </form>
  );
}

/** All builders, or those that are ticked. */
function WhoMayUse({
  value,
  fault,
  onChange,
}: {
  value: number[] | null;
  fault: string | undefined;
  onChange: (ids: number[] | null) => void;
}) {
  const everyone = useBuilders();
  const all = everyone.data?.builders ?? [];
  return (
    <fieldset className="grid gap-1">
      <legend className="text-sm font-semibold">Who of the builders may use it</legend>
      <label className="flex items-center gap-2">
        <input type="radio" name="who-may" checked={value === null} onChange={() => onChange(null)} /> all
      </label>
      <label className="flex items-center gap-2">
        <input
          type="radio"
          name="who-may"
          checked={value !== null}
          onChange={() => onChange(all.map((each) => each.id))}
        />{' '}
        only these
      </label>
      {value !== null && (
        <div className="flex flex-wrap gap-x-4 pl-6">
          {all.map((each) => (
            <label key={each.id} className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={value.includes(each.id)}
                onChange={(event) =>
                  onChange(event.target.checked ? [...value, each.id] : value.filter((id) => id !== each.id))
                }
              />{' '}
              {each.name}
            </label>
          ))}
        </div>
      )}
      {fault && <p className="text-sm font-medium text-iron">{fault}</p>}
    </fieldset>
  );
}

function fieldsOf({
  name,
  kind,
  host,
  port,
  database,
  user,
  tls,
  builders,
}: ConnectionInfo): Omit<ConnectionForm, 'password'> {
  return { name, kind, host, port, database, user, tls, builders };
}
