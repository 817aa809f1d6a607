import { useRef, useState, type FormEvent, type ReactNode } from 'react';
import { Link } from 'react-router';
import { problemText } from '../client/http';
import type { DemoPeople } from '../client/portal';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice } from '../ui/Notice';
import { Footer, useFace } from './face';

/** Ways that are fetched only when somebody takes them. */
export type FurtherWay = 'code' | 'password' | 'passkey';

/** What stands in the middle of a door. */
export function DoorCard({ title, colour, children }: { title: string; colour: string; children: ReactNode }) {
  return (
    <main className="grid min-h-dvh place-items-center p-4">
      <div className="grid w-full max-w-100 gap-5">
        <Framed title={title} colour={colour}>
          {children}
        </Framed>
      </div>
    </main>
  );
}

function Framed({ title, colour, children }: { title: string; colour: string; children: ReactNode }) {
  const { logo, welcome, footer } = useFace();
  return (
    <>
      <section
        className="part-door grid gap-4 rounded-stone border border-line bg-paper p-6 border-t-6"
        style={{ borderTopColor: colour }}
      >
        {logo && <img src={logo} alt="" className="max-h-16 max-w-60 object-contain object-left" />}
        <h1>{title}</h1>
        {welcome && <p className="whitespace-pre-line text-soft">{welcome}</p>}
        {children}
      </section>
      <Footer footer={footer} />
    </>
  );
}

/** E-mail and password, and what else there is. In the demo the people to sign in as stand below. */
export function SignIn<Came>({
  signIn,
  title,
  colour,
  demo,
  methods = ['password'],
  way,
  provider,
  problem = null,
  opening = null,
  mailBox = null,
  onDone,
}: {
  signIn: (as: { email: string; password: string }) => Promise<Came>;
  title: string;
  colour: string;
  demo: DemoPeople | null;
  /** How people sign in here, the first one first. */
  methods?: readonly string[];
  /** Another way than typing a password, with a way back where there is one. */
  way?: (taken: FurtherWay, onBack?: () => void) => ReactNode;
  /** Single sign-on: what its button says, and where it leads. */
  provider?: { label: string; to: string } | null;
  /** What went wrong on the way back from elsewhere. */
  problem?: string | null;
  /** Domains whose every address can come in, and where that is. */
  opening?: { domains: string[]; to: string } | null;
  /** Where the demo's mails are read. */
  mailBox?: string | null;
  onDone: (came: Came) => void;
}) {
  const hasPassword = methods.includes('password');
  const [taken, setTaken] = useState<FurtherWay | null>(methods[0] === 'code' ? 'code' : null);
  // Two fields, and the first thing that anybody downloads: no package for it.
  const email = useRef<HTMLInputElement>(null);
  const password = useRef<HTMLInputElement>(null);
  const [fault, setFault] = useState(problem ?? '');
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
      onDone(await signIn(as));
    } catch (error) {
      setFault(problemText(error));
      password.current?.focus();
    } finally {
      setBusy(false);
    }
  };
  const others = [
    ...(way && hasPassword ? [{ way: 'password' as const, label: 'Forgotten it?' }] : []),
    ...(methods.includes('code') ? [{ way: 'code' as const, label: 'Sign in by a code' }] : []),
    ...(methods.includes('passkey') ? [{ way: 'passkey' as const, label: 'Sign in by a passkey' }] : []),
  ];
  return (
    <main className="grid min-h-dvh place-items-center p-4">
      <div className="grid w-full max-w-100 gap-5">
        <Framed title={title} colour={colour}>
          {taken && way ? (
            way(taken, hasPassword || provider ? () => setTaken(null) : undefined)
          ) : (
            <>
              {fault && <Notice kind="fault">{fault}</Notice>}
              {provider && (
                <a
                  href={provider.to}
                  className={
                    'inline-flex min-h-9 items-center justify-center rounded-stone border border-line-strong ' +
                    'bg-paper px-3 py-1 font-semibold text-ink no-underline hover:bg-sunk'
                  }
                >
                  {provider.label}
                </a>
              )}
              {hasPassword && (
                <form onSubmit={(event) => void submit(event)} noValidate className="grid gap-4">
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
                </form>
              )}
              {others.length > 0 && (
                <div className="flex flex-wrap gap-2">
                  {others.map((each) => (
                    <Button key={each.way} small weight="quiet" onClick={() => setTaken(each.way)}>
                      {each.label}
                    </Button>
                  ))}
                </div>
              )}
              {opening && (
                <p className="text-sm text-soft">
                  New here, with an address of {opening.domains.join(' or ')}? <Link to={opening.to}>Come in</Link>
                </p>
              )}
            </>
          )}
        </Framed>
        {demo && (
          <DemoList
            demo={demo}
            mailBox={mailBox}
            onPick={(person) => {
              if (!email.current) return setTaken(null);
              email.current.value = person;
              password.current!.value = demo.password;
              setMissing({ email: false, password: false });
              password.current!.focus();
            }}
          />
        )}
      </div>
    </main>
  );
}

function DemoList({
  demo,
  mailBox,
  onPick,
}: {
  demo: DemoPeople;
  mailBox: string | null;
  onPick: (email: string) => void;
}) {
  return (
    <section aria-label="People of the demo" className="rounded-stone border border-dashed border-line-strong p-4">
      <h2 className="text-base">In this demo you can be</h2>
      <ul className="mt-2 grid gap-2">
        {demo.people.map((person) => (
          <li key={person.email}>
            <button
              type="button"
              className="w-full rounded-stone border border-line bg-paper px-3 py-2 text-left hover:bg-sunk"
              onClick={() => onPick(person.email)}
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
        {mailBox && (
          <>
            . All mail of the demo ends in{' '}
            <a className="underline" href={mailBox}>
              its mail box
            </a>
            .
          </>
        )}
      </p>
    </section>
  );
}
