import { useState, type FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { shortestPassword } from '../../core/sign-in/password-rules';
import { problemText, ServerProblem } from '../client/http';
import { linksAt, type CameIn } from '../client/portal';
import { Button } from '../ui/Button';
import { PasswordField } from '../ui/PasswordField';
import { Notice, Skeleton } from '../ui/Notice';

/**
 * Where the link of an invitation or of a forgotten password leads. Coming here uses nothing up: programs that read
 * mail open links, too.
 */
export default function ComeIn({
  slug,
  title,
  colour,
  onDone,
}: {
  slug: string;
  title: string;
  colour: string;
  onDone: (came: CameIn) => void;
}) {
  const [token] = useState(() => window.location.hash.slice(1));
  const link = useQuery({
    queryKey: ['link', slug, token],
    queryFn: () => linksAt(slug)('POST /links/look', { body: { token } }),
    retry: false,
    staleTime: Infinity,
  });
  const [password, setPassword] = useState('');
  const [fault, setFault] = useState<{ said: string; atPassword: boolean } | null>(null);
  const [isBusy, setBusy] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setFault(null);
    try {
      const body = { token, password: link.data?.asksPassword ? password : null };
      const came = await linksAt(slug)('POST /links/use', { body });
      onDone(came);
    } catch (error) {
      const errors =
        error instanceof ServerProblem ? (error.body.fields as Record<string, string> | undefined) : undefined;
      setFault(
        errors?.password
          ? { said: errors.password, atPassword: true }
          : { said: problemText(error), atPassword: false },
      );
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className="grid min-h-dvh place-items-center p-4">
      <form
        onSubmit={(event) => void submit(event)}
        noValidate
        className="grid w-full max-w-100 gap-4 rounded-stone border border-line bg-paper p-6 border-t-6"
        style={{ borderTopColor: colour }}
      >
        <h1>{title}</h1>
        {link.isPending && <Skeleton lines={3} />}
        {link.isError && (
          <>
            <Notice kind="fault">{problemText(link.error)}</Notice>
            <Link to={`/p/${slug}`}>To the sign-in</Link>
          </>
        )}
        {link.data && (
          <>
            <p>
              {link.data.kind === 'invitation' ? `Welcome, ${link.data.name}.` : `Hello, ${link.data.name}.`}{' '}
              {link.data.asksPassword
                ? 'Choose the password that you will sign in with.'
                : 'Press below to come in. The link works once.'}
            </p>
            {fault && !fault.atPassword && <Notice kind="fault">{fault.said}</Notice>}
            {link.data.asksPassword && (
              <>
                <input type="email" autoComplete="username" className="hidden" readOnly value={link.data.email} />
                <PasswordField
                  label="New password"
                  isNew
                  hint={`${shortestPassword.alone} characters at least; spaces count`}
                  fault={fault?.atPassword ? fault.said : null}
                  value={password}
                  onValue={setPassword}
                />
              </>
            )}
            <Button type="submit" weight="main" disabled={isBusy}>
              Come in
            </Button>
          </>
        )}
      </form>
    </main>
  );
}
