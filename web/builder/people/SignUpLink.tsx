import { Link } from 'react-router';
import { CopyText } from '../../ui/CopyText';
import { Notice } from '../../ui/Notice';
import { useBench } from '../bench/bench-context';
import { useNames } from '../bench/names';

/** The link to give out, and what it makes of people. */
export function SignUpLink({ of }: { of: { link: string; roles: string[] } | undefined }) {
  const { state, to } = useBench();
  const names = useNames();
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
          <CopyText text={of.link} />
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
