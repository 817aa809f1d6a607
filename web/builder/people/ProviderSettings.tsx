import { useState, type FormEvent } from 'react';
import type { UseMutationResult } from '@tanstack/react-query';
import type { IdentityProvider } from '../../../core/sign-in/sign-in-rules';
import { problemText } from '../../client/http';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Field } from '../../ui/Field';
import { Notice } from '../../ui/Notice';
import { TriedSetting } from './TriedSetting';

const empty: IdentityProvider = { label: 'Sign in with your account', issuer: '', clientId: '' };

interface Saving {
  /** Gives what is wrong with it, null when nothing is. */
  save: (provider: IdentityProvider) => Promise<string | null>;
  saveSecret: (secret: string) => Promise<unknown>;
}

/** The identity provider of single sign-on at a door, with a press that tries it. */
export function ProviderSettings({
  provider,
  state,
  trying,
  ...saving
}: Saving & {
  provider: IdentityProvider | undefined;
  /** Whether its secret is set, and where it is to send browsers back to. */
  state: { hasSecret: boolean; returnTo: string } | undefined;
  trying: UseMutationResult<{ fine: boolean; answer: string }, Error, void>;
}) {
  const [open, setOpen] = useState(false);
  return (
    <TriedSetting
      label="Identity provider"
      says={
        provider ? (
          <>
            Single sign-on asks <strong className="break-all">{provider.issuer}</strong>.
            {state?.hasSecret === false && <span className="text-iron"> Its secret is not set.</span>}
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
          says={`At the provider, name this as the address to come back to: ${state?.returnTo ?? ''}`}
          open={open}
          onOpenChange={setOpen}
        >
          <ProviderForm first={provider ?? empty} {...saving} onDone={() => setOpen(false)} />
        </Dialog>
      }
    />
  );
}

function ProviderForm({ first, save, saveSecret, onDone }: Saving & { first: IdentityProvider; onDone: () => void }) {
  const [form, setForm] = useState(first);
  const [secret, setSecret] = useState('');
  const [fault, setFault] = useState<string | null>(null);
  const [isBusy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setFault(null);
    setBusy(true);
    const emailClaim = form.emailClaim?.trim();
    try {
      const problem = await save({
        label: form.label.trim(),
        issuer: form.issuer.trim(),
        clientId: form.clientId.trim(),
        ...(emailClaim ? { emailClaim } : {}),
      });
      if (problem !== null) return setFault(problem);
      if (secret !== '') await saveSecret(secret);
      onDone();
    } catch (error) {
      setFault(problemText(error));
    } finally {
      setBusy(false);
    }
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
        <Button type="submit" weight="main" disabled={isBusy}>
          Keep
        </Button>
      </div>
    </form>
  );
}
