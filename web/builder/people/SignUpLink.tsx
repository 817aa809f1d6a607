import { useState } from 'react';
import { Link } from 'react-router';
import { Copy } from 'lucide-react';
import { Button } from '../../ui/Button';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

/** The link to give out, and what it makes of people. */
export function SignUpLink({ of }: { of: { link: string; roles: string[] } | undefined }) {
  const { state, to } = useBench();
  const names = useNames();
  const [copied, setCopied] = useState(false);
  if (!of) return null;
  const isLive = state.publishedVersion !== null;
  return (
    <div className="grid gap-2">
      {of.roles.length > 0 ? (
        <p>
          Whoever comes by it is <strong>{names.roles(of.roles)}</strong>.
        </p>
      ) : (
        <Notice kind="warn">
          Nobody gets a role by it: no rule of the roster holds for what the link says. Say more of the row, or give
          everyone on the roster a role.
        </Notice>
      )}
      {isLive ? (
        <div className="flex flex-wrap items-center gap-2">
          <code className="min-w-0 grow rounded-stone bg-sunk px-2 py-1 text-sm break-all">{of.link}</code>
          <Button small onClick={() => void navigator.clipboard.writeText(of.link).then(() => setCopied(true))}>
            <Copy size={15} aria-hidden /> {copied ? 'Copied' : 'Copy'}
          </Button>
        </div>
      ) : (
        <p className="text-sm text-soft">
          The link works once the portal is{' '}
          <Link className="underline" to={to('publish')}>
            published
          </Link>
          .
        </p>
      )}
      <p className="text-sm text-soft">What is set here holds once it is published.</p>
    </div>
  );
}
