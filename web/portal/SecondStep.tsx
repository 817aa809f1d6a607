import { useEffect, useRef, useState, type FormEvent, type ReactNode } from 'react';
import { problemText } from '../client/http';
import { doorAt } from '../client/portal';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';

/** The code of a second factor, or setting one up, before somebody comes in. */
export default function SecondStep({ base, isNew, onDone }: { base: string; isNew: boolean; onDone: () => void }) {
  return isNew ? <SetUp base={base} onDone={onDone} /> : <GiveCode base={base} onDone={onDone} />;
}

function GiveCode({ base, onDone }: { base: string; onDone: () => void }) {
  const form = useCode(async (code) => {
    await doorAt(base)('POST /second-factor', { body: { code } });
    onDone();
  });
  return (
    <form onSubmit={form.submit} noValidate className="grid gap-4">
      {form.fault && <Notice kind="fault">{form.fault}</Notice>}
      <p>One more step: the code that your app shows now, or one of your recovery codes.</p>
      {form.field('Code')}
      <Button type="submit" weight="main" disabled={form.isBusy}>
        Come in
      </Button>
    </form>
  );
}

/** Makes a key for an app, and keeps it once a code shows that the app has it. Also for those who are in already. */
export function SetUp({ base, onDone }: { base: string; onDone: () => void }) {
  const [begun, setBegun] = useState<{ ticket: string; secret: string; picture: string } | null>(null);
  const [recovery, setRecovery] = useState<string[] | null>(null);
  const [fault, setFault] = useState('');
  const begin = () => {
    doorAt(base)('POST /second-factor/begin').then(
      (answer) => setBegun(answer),
      (error: unknown) => setFault(problemText(error)),
    );
  };
  const form = useCode(async (code) => {
    try {
      const body = { ticket: begun!.ticket, code };
      setRecovery((await doorAt(base)('POST /second-factor/set', { body })).recovery);
    } catch (error) {
      // A key is good for one try: a new one is shown.
      begin();
      throw error;
    }
  });
  if (recovery)
    return (
      <div className="grid gap-4">
        <Notice kind="say">
          Your second factor is set. Keep these recovery codes where you keep what matters: each lets you in once when
          the app is lost. They are shown only now.
        </Notice>
        <ul className="grid grid-cols-2 gap-1 font-code">
          {recovery.map((each) => (
            <li key={each}>{each}</li>
          ))}
        </ul>
        <Button weight="main" onClick={onDone}>
          I have kept them
        </Button>
      </div>
    );
  return (
    <form onSubmit={form.submit} noValidate className="grid gap-4">
      {(fault || form.fault) && <Notice kind="fault">{fault || form.fault}</Notice>}
      {!begun && (
        <>
          <p>You sign in here with a second factor: a code of the moment that an app on your phone shows.</p>
          <Button weight="main" onClick={begin}>
            Set it up
          </Button>
        </>
      )}
      {begun && (
        <>
          <p>Let the app read this picture, or type the key into it; then type the code that it shows.</p>
          <img
            className="mx-auto w-44 rounded-stone border border-line bg-white"
            alt="The key, for the app to read"
            src={`data:image/svg+xml,${encodeURIComponent(begun.picture)}`}
          />
          <p className="text-center font-code break-all">{begun.secret.replaceAll(/(.{4})(?=.)/g, '$1 ')}</p>
          {form.field('Code that the app shows')}
          <Button type="submit" weight="main" disabled={form.isBusy}>
            Keep it
          </Button>
        </>
      )}
    </form>
  );
}

/** A field for a code, sent by a press, with what was wrong with it. */
function useCode(send: (code: string) => Promise<void>) {
  const [code, setCode] = useState('');
  const [fault, setFault] = useState('');
  const [isBusy, setBusy] = useState(false);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setFault('');
    setBusy(true);
    send(code)
      .catch((error: unknown) => setFault(problemText(error)))
      .finally(() => setBusy(false));
  };
  const field = (label: string): ReactNode => <CodeField label={label} code={code} onCode={setCode} />;
  return { fault, isBusy, submit, field };
}

function CodeField({ label, code, onCode }: { label: string; code: string; onCode: (code: string) => void }) {
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.focus(), []);
  return (
    <Field label={label}>
      {(ids) => (
        <input
          className="field tabular-nums"
          autoComplete="one-time-code"
          maxLength={20}
          ref={input}
          {...ids}
          value={code}
          onChange={(event) => onCode(event.target.value)}
        />
      )}
    </Field>
  );
}
