import { useState, type FormEvent, type ReactNode } from 'react';
import { problemText, ServerProblem } from '../client/http';
import { useOwnChange, useOwnSignIn, type OwnSignIn as Own } from '../client/own-sign-in';
import { Button } from '../ui/Button';
import { DataTable, Unseen } from '../ui/DataTable';
import { Field } from '../ui/Field';
import { PasswordField } from '../ui/PasswordField';
import { Notice, Skeleton } from '../ui/Notice';
import { addPasskey } from './passkey';
import { SetUp } from './SecondStep';

const minute = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });
const momentText = (moment: string | null) => (moment === null ? '–' : minute.format(new Date(moment)));

/** What somebody sees and changes of their own way in. */
export default function OwnSignIn({ base, back }: { base: string; back: ReactNode }) {
  const own = useOwnSignIn(base);
  return (
    <main className="mx-auto grid w-full max-w-160 gap-6 p-4">
      <p>{back}</p>
      <h1 className="text-2xl">Your sign-in</h1>
      {own.isPending && <Skeleton />}
      {own.isError && <Notice kind="fault">{problemText(own.error)}</Notice>}
      {own.data && (
        <>
          {own.data.hasPassword && own.data.methods.includes('password') && <Password base={base} />}
          {own.data.methods.includes('passkey') && <Passkeys base={base} own={own.data} />}
          <SecondFactor base={base} own={own.data} />
          <Sessions base={base} own={own.data} />
        </>
      )}
    </main>
  );
}

function Password({ base }: { base: string }) {
  const [old, setOld] = useState('');
  const [password, setPassword] = useState('');
  const change = useOwnChange(base, (ask, body: { old: string; password: string }) =>
    ask('PUT /own/password', { body }),
  );
  const fields =
    change.error instanceof ServerProblem ? ((change.error.body.fields ?? {}) as Record<string, string>) : {};
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate(
      { old, password },
      {
        onSuccess: () => {
          setOld('');
          setPassword('');
        },
      },
    );
  };
  return (
    <form onSubmit={submit} noValidate aria-label="Password" className="grid max-w-100 gap-3">
      <h2>Password</h2>
      {change.isSuccess && (
        <Notice kind="say">It is changed. Wherever else you were signed in you are not any more.</Notice>
      )}
      {change.isError && Object.keys(fields).length === 0 && <Notice kind="fault">{problemText(change.error)}</Notice>}
      <PasswordField label="Password of now" fault={fields.old} value={old} onValue={setOld} />
      <PasswordField label="New password" isNew fault={fields.password} value={password} onValue={setPassword} />
      <div>
        <Button type="submit" disabled={change.isPending}>
          Change it
        </Button>
      </div>
    </form>
  );
}

function Passkeys({ base, own }: { base: string; own: Own }) {
  const [name, setName] = useState('');
  const add = useOwnChange(base, (_ask, called: string) => addPasskey(base, called));
  const remove = useOwnChange(base, (ask, passkey: string) =>
    ask('DELETE /own/passkeys/:passkey', { params: { passkey } }),
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    add.mutate(name.trim() || 'This device', { onSuccess: () => setName('') });
  };
  return (
    <section className="grid gap-3">
      <h2>Passkeys</h2>
      <p className="text-soft">A passkey lets you in with what opens your device, and is as good as two proofs.</p>
      {add.isError && <Notice kind="fault">{problemText(add.error)}</Notice>}
      {own.passkeys.length > 0 && (
        <DataTable label="Passkeys" head={['Name', 'Since', 'Last used', <Unseen key="do">Actions</Unseen>]}>
          {own.passkeys.map((passkey) => (
            <tr key={passkey.id}>
              <td className="py-1.5 pr-3">{passkey.name}</td>
              <td className="py-1.5 pr-3">{momentText(passkey.madeAt)}</td>
              <td className="py-1.5 pr-3">{momentText(passkey.usedAt)}</td>
              <td className="py-1 text-right">
                <Button small weight="quiet" onClick={() => remove.mutate(passkey.id)}>
                  Remove<span className="sr-only"> {passkey.name}</span>
                </Button>
              </td>
            </tr>
          ))}
        </DataTable>
      )}
      <form onSubmit={submit} className="flex flex-wrap items-end gap-2">
        <Field label="Name of the new one">
          {(ids) => (
            <input
              className="field"
              placeholder="This device"
              maxLength={100}
              {...ids}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          )}
        </Field>
        <Button type="submit" disabled={add.isPending}>
          Add a passkey
        </Button>
      </form>
    </section>
  );
}

function SecondFactor({ base, own }: { base: string; own: Own }) {
  const [isSetting, setSetting] = useState(false);
  const remove = useOwnChange(base, (ask) => ask('DELETE /own/second-factor'));
  const look = useOwnSignIn(base);
  return (
    <section aria-label="Second factor" className="grid max-w-100 gap-3">
      <h2>Second factor</h2>
      {isSetting ? (
        <SetUp
          base={base}
          onDone={() => {
            setSetting(false);
            void look.refetch();
          }}
        />
      ) : (
        <p className="flex flex-wrap items-center gap-3">
          {own.hasSecondFactor ? 'Set: you are asked for a code of your app.' : 'None is set.'}
          <Button small onClick={() => setSetting(true)}>
            {own.hasSecondFactor ? 'Set up anew' : 'Set it up'}
          </Button>
          {own.hasSecondFactor && !own.isSecondFactorAsked && (
            <Button small weight="quiet" onClick={() => remove.mutate(undefined)}>
              Give it up
            </Button>
          )}
        </p>
      )}
    </section>
  );
}

function Sessions({ base, own }: { base: string; own: Own }) {
  const end = useOwnChange(base, (ask, session: number) =>
    ask('DELETE /own/sessions/:session', { params: { session } }),
  );
  const endOthers = useOwnChange(base, (ask) => ask('DELETE /own/sessions'));
  return (
    <section className="grid gap-3">
      <div className="flex items-center gap-3">
        <h2 className="flex-1">Where you are signed in</h2>
        {own.sessions.length > 1 && (
          <Button small onClick={() => endOthers.mutate(undefined)}>
            End all others
          </Button>
        )}
      </div>
      <DataTable label="Sessions" head={['Browser', 'Since', 'Last used', <Unseen key="do">Actions</Unseen>]}>
        {own.sessions.map((session) => (
          <tr key={session.id}>
            <td className="py-1.5 pr-3 break-words">{session.device ?? 'not said'}</td>
            <td className="py-1.5 pr-3">{momentText(session.beganAt)}</td>
            <td className="py-1.5 pr-3">{momentText(session.lastUsed)}</td>
            <td className="py-1 text-right whitespace-nowrap">
              {session.isThis ? (
                <span className="text-soft">this one</span>
              ) : (
                <Button small weight="quiet" onClick={() => end.mutate(session.id)}>
                  End<span className="sr-only"> the session since {momentText(session.beganAt)}</span>
                </Button>
              )}
            </td>
          </tr>
        ))}
      </DataTable>
    </section>
  );
}
