import { useState, type FormEvent } from 'react';
import type { IdentityProvider } from '../../../core/sign-in/sign-in-rules';
import { signInRules } from '../../../core/sign-in/sign-in-rules';
import { useBenchAction } from '../../client/builder';
import { problemText } from '../../client/http';
import { useProvider, useTryProvider } from '../../client/people';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { TriedSetting } from './TriedSetting';

const empty: IdentityProvider = { label: 'Sign in with your account', issuer: '', clientId: '' };

/** The identity provider of single sign-on: a part of the draft but for its secret, which holds at once. */
export function ProviderSettings() {
  const { slug, draft } = useBench();
  const { provider } = signInRules(draft);
  const found = useProvider(slug);
  const trying = useTryProvider(slug);
  const [open, setOpen] = useState(false);
  return (
    <TriedSetting
      label="Identity provider"
      says={
        provider ? (
          <>
            Single sign-on asks <strong className="break-all">{provider.issuer}</strong>.
            {found.data?.hasSecret === false && <span className="text-iron"> Its secret is not set.</span>}
          </>
        ) : (
          'No identity provider is set for single sign-on.'
        )
      }
      word={provider ? 'Try it' : null}
      trying={trying}
      change={
        <Dialog
          trigger={<Button small>{provider ? 'Change' : 'Set the provider'}</Button>}
          title="Identity provider"
          says={`At the provider, name this as the address to come back to: ${found.data?.returnTo ?? ''}`}
          open={open}
          onOpenChange={setOpen}
        >
          <ProviderForm first={provider ?? empty} onDone={() => setOpen(false)} />
        </Dialog>
      }
    />
  );
}

function ProviderForm({ first, onDone }: { first: IdentityProvider; onDone: () => void }) {
  const { slug, edit } = useBench();
  const [form, setForm] = useState(first);
  const [secret, setSecret] = useState('');
  const [fault, setFault] = useState<string | null>(null);
  const save = useBenchAction(slug, 'PUT /sign-in/provider/secret');
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setFault(null);
    const emailClaim = form.emailClaim?.trim();
    const next: IdentityProvider = {
      label: form.label.trim(),
      issuer: form.issuer.trim(),
      clientId: form.clientId.trim(),
      ...(emailClaim ? { emailClaim } : {}),
    };
    const problem = await edit('Set the identity provider', (changed) => {
      (changed.signIn ??= { methods: ['password'] }).provider = next;
    });
    if (problem !== null) return setFault(problem);
    if (secret === '') return onDone();
    save.mutate({ body: { secret } }, { onSuccess: onDone });
  };
  const text = (name: keyof IdentityProvider, label: string, hint?: string) => (
    <Field label={label} hint={hint}>
      {(ids) => (
        <input
          className="field"
          autoComplete="off"
          {...ids}
          value={form[name] ?? ''}
          onChange={(event) => setForm({ ...form, [name]: event.target.value })}
        />
      )}
    </Field>
  );
  return (
    <form onSubmit={(event) => void submit(event)} noValidate className="grid gap-3">
      {fault && <Notice kind="fault">{fault}</Notice>}
      {save.isError && <Notice kind="fault">{problemText(save.error)}</Notice>}
      {text('label', 'What the button says')}
      {text('issuer', 'Issuer', 'Its address, as https://accounts.example.org')}
      {text('clientId', 'Client id')}
      <Field label="Client secret" hint="Kept sealed, never shown again; empty keeps the one that is there">
        {(ids) => (
          <input
            className="field"
            type="password"
            autoComplete="off"
            {...ids}
            value={secret}
            onChange={(event) => setSecret(event.target.value)}
          />
        )}
      </Field>
      {text('emailClaim', 'Claim that is the e-mail', 'email, where nothing is said')}
      <div>
        <Button type="submit" weight="main" disabled={save.isPending}>
          Keep
        </Button>
      </div>
    </form>
  );
}
