import { useState, type FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { workplace } from '../client/bench';
import { problemText, ServerProblem } from '../client/http';
import { Button } from '../ui/Button';
import { Field } from '../ui/Field';
import { Notice, Skeleton } from '../ui/Notice';
import { DoorCard } from '../portal/SignIn';

/** Where the link of somebody leads who is to build here: they choose a password. */
export default function Join() {
  const [token] = useState(() => window.location.hash.slice(1));
  const link = useQuery({
    queryKey: ['join', token],
    queryFn: () => workplace('POST /links/look', { body: { token } }),
    retry: false,
    staleTime: Infinity,
  });
  return (
    <DoorCard title="Stone Porch" colour="var(--lichen)">
      {link.isPending && <Skeleton lines={3} />}
      {link.isError && (
        <>
          <Notice kind="fault">{problemText(link.error)}</Notice>
          <Link to="/">To the sign-in</Link>
        </>
      )}
      {link.data && <Choose token={token} link={link.data} />}
    </DoorCard>
  );
}

const choose = 'Choose the password that you will sign in with.';

function Choose({ token, link }: { token: string; link: { name: string; isFirst: boolean; asksPassword: boolean } }) {
  const [typed, setTyped] = useState({ name: '', email: '', password: '' });
  const [fields, setFields] = useState<Record<string, string>>({});
  const [fault, setFault] = useState('');
  const [isBusy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setFault('');
    setFields({});
    try {
      const { name, email, password } = typed;
      const body = { token, password, ...(link.isFirst ? { name, email } : {}) };
      const { lacks } = await workplace('POST /links/use', { body });
      window.location.assign(lacks === null ? '/' : `/?lacks=${encodeURIComponent(lacks)}`);
    } catch (error) {
      const wrong = error instanceof ServerProblem ? ((error.body.fields ?? {}) as Record<string, string>) : {};
      setFields(wrong);
      if (Object.keys(wrong).length === 0) setFault(problemText(error));
      setBusy(false);
    }
  };
  const text = (name: keyof typeof typed, label: string, type: string, complete: string) => (
    <Field label={label} fault={fields[name]}>
      {(ids) => (
        <input
          className="field"
          type={type}
          autoComplete={complete}
          {...ids}
          value={typed[name]}
          onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
        />
      )}
    </Field>
  );
  return (
    <form onSubmit={(event) => void submit(event)} noValidate className="grid gap-4">
      <p>
        {link.isFirst
          ? 'You are the first here, and will be its owner. Say who you are.'
          : `Welcome, ${link.name}. ${link.asksPassword ? choose : 'Press below to come in.'}`}
      </p>
      {fault && (
        <Notice kind="fault" action={<Link to="/">To the sign-in</Link>}>
          {fault}
        </Notice>
      )}
      {link.isFirst && text('name', 'Your name', 'text', 'name')}
      {link.isFirst && text('email', 'E-mail', 'email', 'username')}
      {link.asksPassword && text('password', 'New password', 'password', 'new-password')}
      <Button type="submit" weight="main" disabled={isBusy}>
        Come in
      </Button>
    </form>
  );
}
