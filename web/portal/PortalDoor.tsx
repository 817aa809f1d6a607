import { lazy, Suspense, useEffect, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { useNavigate, useParams } from 'react-router';
import { problemText, ServerProblem } from '../client/http';
import { doors, useDoor, useMe, type CameIn } from '../client/portal';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';
import { DoorCard, SignIn } from './SignIn';

const loading = (
  <div className="p-6">
    <Skeleton />
  </div>
);
const Inside = lazy(() => import('./Inside'));
const SignInWays = lazy(() => import('./SignInWays'));
const PasskeyWay = lazy(() => import('./PasskeyWay'));
const ComeIn = lazy(() => import('./ComeIn'));
const SignUp = lazy(() => import('./SignUp').then((part) => ({ default: part.SignUp })));
const ByDomain = lazy(() => import('./SignUp').then((part) => ({ default: part.ByDomain })));
const Prove = lazy(() => import('./SignUp').then((part) => ({ default: part.Prove })));
const SecondStep = lazy(() => import('./SecondStep'));

/** What went wrong on the way back from an identity provider; told once. */
function whatWasSaid(): string | null {
  const found = /(?:^|; )stone_porch_said=([^;]*)/.exec(document.cookie)?.[1];
  return found === undefined ? null : decodeURIComponent(found);
}

const lackOf = (text: string | null): CameIn['lacks'] =>
  text === 'second factor' || text === 'new second factor' ? text : null;

/** The portal at its own address: the sign-in, or the pages behind it. A deep link survives signing in. */
export function PortalDoor() {
  const { slug = '', page } = useParams();
  const base = `/portals/${slug}`;
  const door = useDoor(slug);
  const me = useMe(base);
  const client = useQueryClient();
  const [unsaved, setUnsaved] = useState(false);
  const navigate = useNavigate();
  const [said] = useState(whatWasSaid);
  // From single sign-on the browser comes by an address.
  const [lacks, setLacks] = useState(lackOf(new URLSearchParams(window.location.search).get('lacks')));
  useEffect(() => {
    document.cookie = `stone_porch_said=; path=/p/${slug}; max-age=0`;
  }, [slug]);
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
  const comeIn = (came?: CameIn) => {
    if (came?.lacks) return setLacks(came.lacks);
    setLacks(null);
    if (window.location.search.includes('lacks=')) void navigate(`/p/${slug}`, { replace: true });
    client.removeQueries({ queryKey: [base] });
    void me.refetch();
  };
  if (page === 'come-in' && window.location.hash.length > 1)
    return (
      <Suspense fallback={loading}>
        <ComeIn slug={slug} title={door.data.name} colour={door.data.colour} onDone={comeIn} />
      </Suspense>
    );
  if ((page === 'sign-up' || page === 'prove') && window.location.hash.length > 1) {
    const Part = page === 'prove' ? Prove : SignUp;
    const { name, colour, mailBox } = door.data;
    return (
      <Suspense fallback={loading}>
        <Part slug={slug} title={name} colour={colour} mailBox={mailBox} />
      </Suspense>
    );
  }
  if (page === 'open' && door.data.openTo) {
    const { name, colour, mailBox, openTo } = door.data;
    return (
      <Suspense fallback={loading}>
        <ByDomain slug={slug} title={name} colour={colour} mailBox={mailBox} domains={openTo} />
      </Suspense>
    );
  }
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
    if (lacks)
      return (
        <Suspense fallback={loading}>
          <DoorCard title={door.data.name} colour={door.data.colour}>
            <SecondStep slug={slug} isNew={lacks === 'new second factor'} onDone={comeIn} />
          </DoorCard>
        </Suspense>
      );
    return (
      <SignIn
        signIn={(body) => doors('POST /:slug/sign-in', { params: { slug }, body })}
        title={door.data.name}
        colour={door.data.colour}
        demo={door.data.demo}
        methods={door.data.methods}
        provider={door.data.provider ? { label: door.data.provider, to: `/api/portals/${slug}/provider` } : null}
        mailBox={door.data.mailBox}
        problem={said}
        opening={door.data.openTo && { domains: door.data.openTo, to: `/p/${slug}/open` }}
        way={(taken, onBack) => (
          <Suspense fallback={<Skeleton lines={3} />}>
            {taken === 'passkey' ? (
              <PasskeyWay slug={slug} onBack={onBack} onDone={comeIn} />
            ) : (
              <SignInWays slug={slug} wants={taken} mailBox={door.data.mailBox} onBack={onBack} onDone={comeIn} />
            )}
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
