import { lazy, Suspense, useMemo, useState } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { useNavigate, useParams } from 'react-router';
import { problemText, ServerProblem } from '../client/http';
import { portalDoor, publicPart, useDoor, useMe, type CameIn } from '../client/portal';
import { Button } from '../ui/Button';
import { Notice, Skeleton } from '../ui/Notice';
import { FaceProvider, useWholeLook } from './face';
import { SignInDoor } from './SignInDoor';

/** Where whoever reads public pages goes to sign in: no page has such an address. */
const signInPage = '~sign-in';

/** The colour of the portal's top. */
const top = 'var(--top)';

const loading = (
  <div className="p-6">
    <Skeleton />
  </div>
);
const Inside = lazy(() => import('./Inside'));
const OwnWindow = lazy(() => import('./OwnWindow'));
const ComeIn = lazy(() => import('./ComeIn'));
const SignUp = lazy(() => import('./SignUp').then((part) => ({ default: part.SignUp })));
const ByDomain = lazy(() => import('./SignUp').then((part) => ({ default: part.ByDomain })));
const Prove = lazy(() => import('./SignUp').then((part) => ({ default: part.Prove })));

/** The portal at its own address, in its own face. */
export function PortalDoor() {
  const { slug = '' } = useParams();
  const base = portalDoor(slug);
  const door = useDoor(base);
  const me = useMe(base);
  const isOut = me.error instanceof ServerProblem && me.error.status === 401;
  const visitor = useMe(publicPart(slug), isOut && door.data?.isPublic === true);
  const face = door.data?.face;
  useWholeLook(me.data?.portal.look ?? face?.look);
  const shown = useMemo(
    () => ({ logo: face?.logo ?? null, welcome: face?.welcome ?? null, footer: face?.look.footer ?? [] }),
    [face],
  );
  return (
    <FaceProvider value={shown}>
      <AtDoor base={base} slug={slug} door={door} me={me} visitor={visitor} isOut={isOut} />
    </FaceProvider>
  );
}

/** The sign-in, or the pages behind it. A deep link survives signing in. */
function AtDoor({
  base,
  slug,
  door,
  me,
  visitor,
  isOut,
}: {
  base: string;
  slug: string;
  door: ReturnType<typeof useDoor>;
  me: ReturnType<typeof useMe>;
  /** What whoever has not signed in gets, where anything is public. */
  visitor: ReturnType<typeof useMe>;
  /** They have not signed in, or their session has ended. */
  isOut: boolean;
}) {
  const { page } = useParams();
  const client = useQueryClient();
  const [unsaved, setUnsaved] = useState(false);
  const navigate = useNavigate();
  // Who comes back from an identity provider is told at the sign-in what went wrong there.
  const [wasSaid] = useState(() => document.cookie.includes('stone_porch_said='));
  if (door.isError)
    return (
      <div className="p-6">
        <Notice kind="fault">{problemText(door.error)}</Notice>
      </div>
    );
  if (door.isPending || me.isPending) return loading;
  // No cookie goes along to a frame of another site, and nobody types a password where they don't see the address.
  const ownWindow = window.self !== window.top && (
    <Suspense fallback={loading}>
      <OwnWindow title={door.data.name} />
    </Suspense>
  );
  if (ownWindow && /^(come-in|sign-up|prove|open)$/.test(page ?? '')) return ownWindow;
  const comeIn = (came?: CameIn) => {
    // One step is left: it is taken at the door.
    if (came?.lacks) return void navigate(`/p/${slug}?lacks=${encodeURIComponent(came.lacks)}`, { replace: true });
    if (page === 'come-in' || page === signInPage || window.location.search.includes('lacks='))
      void navigate(`/p/${slug}`, { replace: true });
    client.removeQueries({ queryKey: [base] });
    void me.refetch();
  };
  if (page === 'come-in' && window.location.hash.length > 1)
    return (
      <Suspense fallback={loading}>
        <ComeIn slug={slug} title={door.data.name} colour={top} onDone={comeIn} />
      </Suspense>
    );
  if ((page === 'sign-up' || page === 'prove') && window.location.hash.length > 1) {
    const Part = page === 'prove' ? Prove : SignUp;
    const { name, mailBox } = door.data;
    return (
      <Suspense fallback={loading}>
        <Part slug={slug} title={name} colour={top} mailBox={mailBox} />
      </Suspense>
    );
  }
  if (page === 'open' && door.data.openTo) {
    const { name, mailBox, openTo } = door.data;
    return (
      <Suspense fallback={loading}>
        <ByDomain slug={slug} title={name} colour={top} mailBox={mailBox} domains={openTo} />
      </Suspense>
    );
  }
  // Who has typed something keeps it in sight when the session ends, and can sign in beside it.
  if (me.data && isOut && unsaved)
    return (
      <Suspense fallback={loading}>
        <Inside base={base} slug={slug} me={me.data} unsaved={unsaved} setUnsaved={setUnsaved} ended />
      </Suspense>
    );
  if (isOut || (me.isError && !me.data)) {
    if (!isOut)
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
    if (visitor.isLoading) return loading;
    // A page that is not public is behind the sign-in.
    const isOpen = visitor.data?.pages.some(({ id }) => page === undefined || id === page);
    if (isOpen && !wasSaid && !window.location.search.includes('lacks='))
      return (
        <Suspense fallback={loading}>
          <Inside base={publicPart(slug)} slug={slug} me={visitor.data!} unsaved={unsaved} setUnsaved={setUnsaved} />
        </Suspense>
      );
    const { openTo } = door.data;
    if (ownWindow) return ownWindow;
    return (
      <SignInDoor
        base={base}
        door={door.data}
        colour={top}
        said={{ cookie: 'stone_porch_said', path: `/p/${slug}` }}
        opening={openTo && { domains: openTo, to: `/p/${slug}/open` }}
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
