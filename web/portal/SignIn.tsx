import { useRef, useState, type FormEvent, type ReactNode } from 'react';
import { problemText } from '../client/http';
import type { DemoPeople } from '../client/portal';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';

const card = 'grid gap-4 rounded-stone border border-line bg-paper p-6 border-t-6';

/** E-mail and password. In the demo the people to sign in as stand below. */
export function SignIn({
  signIn,
  title,
  colour,
  demo,
  methods = ['password'],
  way,
  onDone,
}: {
  signIn: (as: { email: string; password: string }) => Promise<unknown>;
  title: string;
  colour: string;
  demo: DemoPeople | null;
  /** How people sign in here, the first one first. */
  methods?: readonly string[];
  /** Another way than the password, with a way back where there is one. */
  way?: (wants: 'code' | 'password', onBack?: () => void) => ReactNode;
  onDone: () => void;
}) {
  const hasPassword = methods.includes('password');
  const [wants, setWants] = useState<'code' | 'password' | null>(methods[0] === 'code' ? 'code' : null);
  // Two fields, and the first thing that anybody downloads: no package for it.
  const email = useRef<HTMLInputElement>(null);
  const password = useRef<HTMLInputElement>(null);
  const [fault, setFault] = useState('');
  const [missing, setMissing] = useState({ email: false, password: false });
  const [isBusy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    const as = { email: email.current!.value, password: password.current!.value };
    setFault('');
    setMissing({ email: as.email === '', password: as.password === '' });
    if (as.email === '' || as.password === '') {
      (as.email === '' ? email : password).current!.focus();
      return;
    }
    setBusy(true);
    try {
      await signIn(as);
      onDone();
    } catch (error) {
      setFault(problemText(error));
      password.current?.focus();
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="grid min-h-dvh place-items-center p-4">
      <div className="grid w-full max-w-100 gap-5">
        {wants && way ? (
          <section className={card} style={{ borderTopColor: colour }}>
            <h1>{title}</h1>
            {way(wants, hasPassword ? () => setWants(null) : undefined)}
          </section>
        ) : (
          <form onSubmit={(event) => void submit(event)} noValidate className={card} style={{ borderTopColor: colour }}>
            <h1>{title}</h1>
            {fault && <Notice kind="fault">{fault}</Notice>}
            <Field label="E-mail" fault={missing.email ? 'Enter your e-mail.' : null}>
              {(ids) => (
                <input className="field" type="email" autoComplete="username" name="email" ref={email} {...ids} />
              )}
            </Field>
            <Field label="Password" fault={missing.password ? 'Enter your password.' : null}>
              {(ids) => (
                <input
                  className="field"
                  type="password"
                  autoComplete="current-password"
                  name="password"
                  ref={password}
                  {...ids}
                />
              )}
            </Field>
            <Button type="submit" weight="main" disabled={isBusy}>
              Sign in
            </Button>
            {way && (
              <div className="flex flex-wrap gap-2">
                <Button small weight="quiet" onClick={() => setWants('password')}>
                  Forgotten it?
                </Button>
                {methods.includes('code') && (
                  <Button small weight="quiet" onClick={() => setWants('code')}>
                    Sign in by a code
                  </Button>
                )}
              </div>
            )}
          </form>
        )}
        {demo && (
          <section
            aria-label="People of the demo"
            className="rounded-stone border border-dashed border-line-strong p-4"
          >
            <h2 className="text-base">In this demo you can be</h2>
            <ul className="mt-2 grid gap-2">
              {demo.people.map((person) => (
                <li key={person.email}>
                  <button
                    type="button"
                    className="w-full rounded-stone border border-line bg-paper px-3 py-2 text-left hover:bg-sunk"
                    onClick={() => {
                      if (!email.current) return setWants(null);
                      email.current.value = person.email;
                      password.current!.value = demo.password;
                      setMissing({ email: false, password: false });
                      password.current!.focus();
                    }}
                  >
                    <span className="font-semibold">{person.name}</span> · {person.role}
                    <br />
                    <span className="text-sm text-soft">{person.email}</span>
                  </button>
                </li>
              ))}
            </ul>
            <p className="mt-3 text-sm text-soft">
              Everyone's password: <span className="font-code">{demo.password}</span>
            </p>
          </section>
        )}
      </div>
    </main>
  );
}
