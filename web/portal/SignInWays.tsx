import { useEffect, useRef, useState, type FormEvent } from 'react';
import { problemText } from '../client/http';
import { doorAt, type CameIn } from '../client/portal';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';

/** A code by e-mail, or a link to a new password: asked for with an address, the same for everybody who asks. */
export default function SignInWays({
  base,
  wants,
  mailBox,
  onBack,
  onDone,
}: {
  base: string;
  wants: 'code' | 'password';
  mailBox: string | null;
  /** Absent where it is the only way. */
  onBack?: () => void;
  onDone: (came: CameIn) => void;
}) {
  const [email, setEmail] = useState('');
  const [asked, setAsked] = useState(false);
  const [code, setCode] = useState('');
  const [fault, setFault] = useState('');
  const [isBusy, setBusy] = useState(false);
  const attempt = async (work: () => Promise<unknown>) => {
    setFault('');
    setBusy(true);
    try {
      await work();
    } catch (error) {
      setFault(problemText(error));
    } finally {
      setBusy(false);
    }
  };
  const ask = (event: FormEvent) => {
    event.preventDefault();
    if (email.trim() === '') return setFault('Enter your e-mail.');
    void attempt(async () => {
      await doorAt(base)('POST /calls', { body: { email, wants } });
      setAsked(true);
    });
  };
  const enter = (event: FormEvent) => {
    event.preventDefault();
    void attempt(async () => {
      onDone(await doorAt(base)('POST /sign-in/code', { body: { email, code } }));
    });
  };
  const codeField = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (asked) codeField.current?.focus();
  }, [asked]);
  const isCode = wants === 'code';
  return (
    <form onSubmit={asked && isCode ? enter : ask} noValidate className="grid gap-4">
      {fault && <Notice kind="fault">{fault}</Notice>}
      {!asked && (
        <Field label="E-mail">
          {(ids) => (
            <input
              className="field"
              type="email"
              autoComplete="username"
              {...ids}
              value={email}
              onChange={(event) => setEmail(event.target.value)}
            />
          )}
        </Field>
      )}
      {asked && (
        <Notice kind="say">
          If {email.trim()} is known here, {isCode ? 'a code' : 'a link to a new password'} is on its way to it.
          {mailBox && (
            <>
              {' '}
              In this demo it comes to{' '}
              <a className="underline" href={mailBox}>
                the mail box of the demo
              </a>
              .
            </>
          )}
        </Notice>
      )}
      {asked && isCode && (
        <Field label="Code" hint="Six digits, good for ten minutes">
          {(ids) => (
            <input
              className="field tabular-nums"
              inputMode="numeric"
              autoComplete="one-time-code"
              maxLength={12}
              ref={codeField}
              {...ids}
              value={code}
              onChange={(event) => setCode(event.target.value)}
            />
          )}
        </Field>
      )}
      {(!asked || isCode) && (
        <Button type="submit" weight="main" disabled={isBusy}>
          {asked ? 'Sign in' : isCode ? 'Send me a code' : 'Send me a link'}
        </Button>
      )}
      <div className="flex flex-wrap gap-2">
        {asked && (
          <Button small weight="quiet" onClick={() => setAsked(false)}>
            Ask again
          </Button>
        )}
        {onBack && (
          <Button small weight="quiet" onClick={onBack}>
            Back to the password
          </Button>
        )}
      </div>
    </form>
  );
}
