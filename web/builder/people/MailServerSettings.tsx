import { useState, type FormEvent } from 'react';
import { useBenchAction, useBuilder } from '../../client/builder';
import { problemText, ServerProblem } from '../../client/http';
import { useMailServer, useTryMailServer, type MailServerForm } from '../../client/people';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { Select } from '../../ui/Select';
import { useBench } from '../bench/bench-context';
import { TriedSetting } from './TriedSetting';

const empty: MailServerForm = {
  host: '',
  port: 587,
  security: 'starttls',
  user: '',
  password: '',
  sender: '',
  senderName: '',
};

/** Through which server the installation sends, tried by a press. It holds for every portal, and at once. */
export function MailServerSettings() {
  const { slug } = useBench();
  const found = useMailServer(slug);
  const builder = useBuilder();
  const trying = useTryMailServer(slug);
  const [open, setOpen] = useState(false);
  const server = found.data?.server ?? null;
  if (!found.data) return null;
  return (
    <TriedSetting
      label="Mail server"
      says={
        server ? (
          <>
            Mails go through <strong>{server.host}</strong>, from {server.senderName} &lt;{server.sender}&gt;.
          </>
        ) : (
          'No mail server is set: mails wait here until one is.'
        )
      }
      word={server ? 'Try it: write to me' : null}
      trying={trying}
      change={
        builder.data?.right === 'owner' && (
          <Dialog
            trigger={<Button small>{server ? 'Change' : 'Set the mail server'}</Button>}
            title="Mail server"
            says="It is the same for every portal of this installation, and holds at once."
            open={open}
            onOpenChange={setOpen}
          >
            <ServerForm
              first={server ? { ...server, password: '' } : empty}
              hasPassword={server !== null}
              onDone={() => setOpen(false)}
            />
          </Dialog>
        )
      }
    >
      {found.data.box && (
        <p className="text-sm text-soft">
          In the demo nothing is delivered: all mail ends in{' '}
          <a className="underline" href={found.data.box}>
            a mail box of ours
          </a>
          .
        </p>
      )}
    </TriedSetting>
  );
}

function ServerForm({
  first,
  hasPassword,
  onDone,
}: {
  first: MailServerForm;
  hasPassword: boolean;
  onDone: () => void;
}) {
  const { slug } = useBench();
  const [form, setForm] = useState(first);
  const save = useBenchAction(slug, 'PUT /mail-server');
  const faults =
    save.error instanceof ServerProblem ? ((save.error.body.fields as Record<string, string> | undefined) ?? {}) : {};
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate({ body: form }, { onSuccess: onDone });
  };
  const text = (name: 'host' | 'user' | 'sender' | 'senderName' | 'password', label: string, hint?: string) => (
    <Field label={label} hint={hint} fault={faults[name]}>
      {(ids) => (
        <input
          className="field"
          type={name === 'password' ? 'password' : 'text'}
          autoComplete="off"
          {...ids}
          value={form[name]}
          onChange={(event) => setForm({ ...form, [name]: event.target.value })}
        />
      )}
    </Field>
  );
  return (
    <form onSubmit={submit} className="grid gap-3" noValidate>
      {save.isError && Object.keys(faults).length === 0 && <Notice kind="fault">{problemText(save.error)}</Notice>}
      <div className="grid gap-3 sm:grid-cols-[1fr_7rem]">
        {text('host', 'Host')}
        <Field label="Port" fault={faults.port}>
          {(ids) => (
            <input
              className="field"
              type="number"
              {...ids}
              value={form.port}
              onChange={(event) => setForm({ ...form, port: Number(event.target.value) })}
            />
          )}
        </Field>
      </div>
      <Field label="Security">
        {(ids) => (
          <Select
            {...ids}
            value={form.security}
            onPick={(picked) => setForm({ ...form, security: picked as MailServerForm['security'] })}
          >
            <option value="starttls">TLS, asked for once there (port 587)</option>
            <option value="tls">TLS from the start (port 465)</option>
            <option value="none">none: only on a network of your own</option>
          </Select>
        )}
      </Field>
      {text('user', 'User', 'Empty where the server asks nobody')}
      {text('password', 'Password', hasPassword ? 'Empty keeps the one that is there' : undefined)}
      {text('sender', 'Mails come from')}
      {text('senderName', 'Name of the sender')}
      <div>
        <Button type="submit" weight="main" disabled={save.isPending}>
          Keep
        </Button>
      </div>
    </form>
  );
}
