import { lazy, Suspense, useEffect, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { problemText, ServerProblem } from '../client/http';
import { doors, useDoor, useMe } from '../client/portal';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';
import { SignIn } from './SignIn';

const loading = (
  <div className="p-6">
    <Skeleton />
  </div>
);
const Inside = lazy(() => import('./Inside'));
const SignInWays = lazy(() => import('./SignInWays'));
const ComeIn = lazy(() => import('./ComeIn'));

/** The portal at its own address: the sign-in, or the pages behind it. A deep link survives signing in. */
export function PortalDoor() {
  const { slug = '', page } = useParams();
  const base = `/portals/${slug}`;
  const door = useDoor(slug);
  const me = useMe(base);
  const client = useQueryClient();
  const [unsaved, setUnsaved] = useState(false);
  useEffect(() => {
    if (door.data) document.title = door.data.name;
  }, [door.data]);

  if (door.isError)
    return (
      <div className="p-6">
        <Notice kind="fault">{problemText(door.error)}</Notice>
      </div>
    );
  if (door.isPending || me.isPending) return loading;
  const comeIn = () => {
    client.removeQueries({ queryKey: [base] });
    void me.refetch();
  };
  if (page === 'come-in' && window.location.hash.length > 1)
    return (
      <Suspense fallback={loading}>
        <ComeIn slug={slug} title={door.data.name} colour={door.data.colour} onDone={comeIn} />
      </Suspense>
    );
  const signedOut = me.error instanceof ServerProblem && me.error.status === 401;
  // Who has typed something keeps it in sight when the session ends, and can sign in beside it.
  if (me.data && signedOut && unsaved)
    return (
      <Suspense fallback={loading}>
        <Inside base={base} slug={slug} me={me.data} unsaved={unsaved} setUnsaved={setUnsaved} ended />
      </Suspense>
    );
  if (signedOut || (me.isError && !me.data)) {
    if (!signedOut)
      return (
        <div className="p-6">
          <Notice
            kind="fault"
            action={
              <Button small onClick={() => void me.refetch()}>
                Try again
              </Button>
            }
          >
            {problemText(me.error)}
          </Notice>
        </div>
      );
    return (
      <SignIn
        signIn={(body) => doors('POST /:slug/sign-in', { params: { slug }, body })}
        title={door.data.name}
        colour={door.data.colour}
        demo={door.data.demo}
        methods={door.data.methods}
        way={(wants, onBack) => (
          <Suspense fallback={<Skeleton lines={3} />}>
            <SignInWays slug={slug} wants={wants} mailBox={door.data.mailBox} onBack={onBack} onDone={comeIn} />
          </Suspense>
        )}
        onDone={comeIn}
      />
    );
  }
  return (
    <Suspense fallback={loading}>
      <Inside base={base} slug={slug} me={me.data!} unsaved={unsaved} setUnsaved={setUnsaved} />
    </Suspense>
  );
}
