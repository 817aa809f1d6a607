import { useState, type FormEvent } from 'react';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import { fromPlain } from '../../core/table/plain-text';
import { problemText, ServerProblem } from '../client/http';
import { signUps } from '../client/portal';
import { ColumnInput } from '../records/ColumnInput';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { InputLabel } from '../records/InputLabel';
import { Notice, Skeleton } from '../ui/Notice';
import { DoorCard } from './SignIn';

interface AtDoor {
  slug: string;
  title: string;
  colour: string;
  /** Where the demo's mails are read. */
  mailBox: string | null;
}

const fieldsOf = (error: unknown): Record<string, string> =>
  error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};

/** Where the link of a sign-up leads: somebody new says who they are, and proves their address by a mail. */
export function SignUp({ slug, title, colour, mailBox }: AtDoor) {
  const [token] = useState(() => window.location.hash.slice(1));
  const info = useQuery({
    queryKey: ['sign-up', slug, token],
    queryFn: () => signUps('POST /:slug/sign-up/look', { params: { slug }, body: { token } }),
    retry: false,
    staleTime: Infinity,
  });
  const [email, setEmail] = useState('');
  const [typed, setTyped] = useState<Record<string, string>>({});
  const ask = useMutation({
    mutationFn: () => {
      const filled = (info.data?.asks ?? []).filter(({ path }) => (typed[path] ?? '') !== '');
      const values = Object.fromEntries(filled.map((column) => [column.path, fromPlain(column, typed[column.path]!)]));
      return signUps('POST /:slug/sign-up', { params: { slug }, body: { token, email, values } });
    },
  });
  const faults = fieldsOf(ask.error);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    ask.mutate();
  };
  return (
    <DoorCard title={title} colour={colour}>
      {info.isPending && <Skeleton lines={4} />}
      {info.isError && (
        <>
          <Notice kind="fault">{problemText(info.error)}</Notice>
          <Link to={`/p/${slug}`}>To the sign-in</Link>
        </>
      )}
      {info.data && ask.isSuccess && <OnItsWay email={email} mailBox={mailBox} />}
      {info.data && !ask.isSuccess && (
        <form onSubmit={submit} noValidate className="grid gap-4">
          <h2 className="text-lg">{info.data.name}</h2>
          {info.data.waits && <p className="text-soft">Somebody looks at your request before you can come in.</p>}
          {ask.isError && Object.keys(faults).length === 0 && <Notice kind="fault">{problemText(ask.error)}</Notice>}
          <EmailField email={email} onChange={setEmail} fault={faults.email} domains={info.data.domains} />
          {info.data.asks.map((column) => (
            <Field
              key={column.path}
              label={<InputLabel label={column.label} mayStayEmpty={column.mayStayEmpty === true} />}
              fault={faults[column.path]}
            >
              {(ids) => (
                <ColumnInput
                  column={column}
                  value={typed[column.path] ?? ''}
                  onChange={(text) => setTyped((before) => ({ ...before, [column.path]: text }))}
                  place={{ base: `/portals/${slug}`, table: '', id: null }}
                  inputProps={ids}
                />
              )}
            </Field>
          ))}
          <Button type="submit" weight="main" disabled={ask.isPending}>
            Ask to come in
          </Button>
          <Link to={`/p/${slug}`}>I can come in already</Link>
        </form>
      )}
    </DoorCard>
  );
}

/** Where whoever has an address of an open domain proves it by a mail. */
export function ByDomain({ slug, title, colour, mailBox, domains }: AtDoor & { domains: string[] }) {
  const [email, setEmail] = useState('');
  const ask = useMutation({ mutationFn: () => signUps('POST /:slug/open', { params: { slug }, body: { email } }) });
  const faults = fieldsOf(ask.error);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    ask.mutate();
  };
  return (
    <DoorCard title={title} colour={colour}>
      {ask.isSuccess ? (
        <OnItsWay email={email} mailBox={mailBox} />
      ) : (
        <form onSubmit={submit} noValidate className="grid gap-4">
          <h2 className="text-lg">Come in for the first time</h2>
          {ask.isError && !faults.email && <Notice kind="fault">{problemText(ask.error)}</Notice>}
          <EmailField email={email} onChange={setEmail} fault={faults.email} domains={domains} />
          <Button type="submit" weight="main" disabled={ask.isPending}>
            Send me a link
          </Button>
          <Link to={`/p/${slug}`}>I can come in already</Link>
        </form>
      )}
    </DoorCard>
  );
}

function OnItsWay({ email, mailBox }: { email: string; mailBox: string | null }) {
  return (
    <>
      <p>
        A mail is on its way to <strong>{email}</strong>. Open the link in it, within a day, so that we know that the
        address is yours.
      </p>
      {mailBox && (
        <p className="text-soft">
          Mails of the demo end <a href={mailBox}>in its mail box</a>.
        </p>
      )}
    </>
  );
}

interface EmailFieldProps {
  email: string;
  onChange: (email: string) => void;
  fault: string | undefined;
  domains: string[] | null;
}

function EmailField({ email, onChange, fault, domains }: EmailFieldProps) {
  return (
    <Field label="E-mail" fault={fault} hint={domains ? `Of ${domains.join(', ')}` : undefined}>
      {(ids) => (
        <input
          className="field"
          type="email"
          autoComplete="email"
          {...ids}
          value={email}
          maxLength={254}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  );
}

/** Where the mail of a sign-up leads. Coming here proves nothing yet: programs that read mail open links, too. */
export function Prove({ slug, title, colour }: AtDoor) {
  const [token] = useState(() => window.location.hash.slice(1));
  const navigate = useNavigate();
  const prove = useMutation({
    mutationFn: () => signUps('POST /:slug/sign-up/prove', { params: { slug }, body: { token } }),
    onSuccess: ({ token: link }) => {
      if (link !== null) void navigate(`/p/${slug}/come-in#${link}`, { replace: true });
    },
  });
  return (
    <DoorCard title={title} colour={colour}>
      {prove.data?.waits ? (
        <p>Thank you. Somebody looks at your request now; a mail tells you when you can come in.</p>
      ) : (
        <>
          <p>Press below if you asked to come in. The link works once.</p>
          {prove.isError && <Notice kind="fault">{problemText(prove.error)}</Notice>}
          <Button weight="main" disabled={prove.isPending} onClick={() => prove.mutate()}>
            Yes, this is my address
          </Button>
        </>
      )}
    </DoorCard>
  );
}
