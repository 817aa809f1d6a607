import { lazy, Suspense, useCallback, useEffect, useMemo, useRef } from 'react';
import { Link, useBlocker, useLocation, useNavigate, useParams } from 'react-router';
import { ChevronDown } from 'lucide-react';
import { doorAt, homeOf, type Me } from '../client/portal';
import { Menu } from '../ui/Menu';
import { Notice } from '../ui/Notice';
import { PlaceProvider, type Place, type Spot } from '../place/place';
import { addressOf, spotOf } from '../place/portal-address';
import { PortalPages } from './PortalPages';

const OwnSignIn = lazy(() => import('./OwnSignIn'));
const loadQuestion = () => import('./LeaveQuestion');
/** Asked of few, and there before it is: it is fetched with the first change. */
const LeaveQuestion = lazy(loadQuestion);

interface InsideProps {
  base: string;
  slug: string;
  me: Me;
  unsaved: boolean;
  setUnsaved: (unsaved: boolean) => void;
  /** The session is over; what was typed is still here. */
  ended?: boolean;
}

/** The portal behind its sign-in, moved about in by the browser's address. */
export default function Inside({ base, slug, me, unsaved, setUnsaved, ended = false }: InsideProps) {
  const params = useParams();
  const location = useLocation();
  const navigate = useNavigate();
  // Whoever is in has nothing to do at the sign-in any more.
  const asked = params.page === '~sign-in' ? undefined : params.page;
  const page = asked ?? homeOf(me.pages)?.id ?? '';
  const first = me.pages.find((each) => each.id === page)?.sections.find((each) => each.kind === 'list')?.id;
  const { section, record } = params;
  const spot = useMemo(
    () => spotOf({ page, section, record }, new URLSearchParams(location.search), first),
    [page, section, record, location.search, first],
  );

  const href = useCallback((to: Spot): string => `/p/${slug}/${addressOf(to)}`, [slug]);
  const forms = useRef(new Set<string>());
  const noteForm = useCallback(
    (form: string, isUnsaved: boolean) => {
      if (isUnsaved) forms.current.add(form);
      else forms.current.delete(form);
      setUnsaved(forms.current.size > 0);
    },
    [setUnsaved],
  );
  const place = useMemo(
    (): Place => ({
      spot,
      href,
      base,
      seenBy: false,
      isVisitor: me.member.kind === 'visitor',
      setUnsaved: noteForm,
      go: (to, how) => void navigate(href(to), how),
    }),
    [spot, href, base, noteForm, navigate, me.member.kind],
  );

  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) => unsaved && currentLocation.pathname !== nextLocation.pathname,
  );
  useEffect(() => {
    const guard = (event: BeforeUnloadEvent) => {
      if (unsaved) event.preventDefault();
    };
    if (unsaved) void loadQuestion();
    window.addEventListener('beforeunload', guard);
    return () => window.removeEventListener('beforeunload', guard);
  }, [unsaved]);

  const signOut = async () => {
    await doorAt(base)('POST /sign-out');
    window.location.assign(`/p/${slug}`);
  };
  const isVisitor = me.member.kind === 'visitor';
  if (params.page === '~own')
    return (
      <Suspense>
        <OwnSignIn base={base} back={<Link to={`/p/${slug}`}>Back to the portal</Link>} />
      </Suspense>
    );
  return (
    <PlaceProvider value={place}>
      <div className="flex min-h-dvh flex-col">
        {ended && (
          <div className="p-3">
            <Notice kind="warn">
              Your session has ended, and what you typed is not saved yet.{' '}
              <a href={`/p/${slug}`} target="_blank" rel="noreferrer">
                Sign in in another tab
              </a>
              , then save here.
            </Notice>
          </div>
        )}
        <PortalPages
          me={me}
          corner={
            isVisitor ? (
              <Link to={`/p/${slug}/~sign-in`} className="px-2 py-1 font-semibold text-white">
                Sign in
              </Link>
            ) : (
              <Corner me={me} onOwn={() => void navigate(`/p/${slug}/~own`)} onSignOut={() => void signOut()} />
            )
          }
        />
      </div>
      {blocker.state === 'blocked' && (
        <Suspense>
          <LeaveQuestion
            onStay={() => blocker.reset()}
            onLeave={() => {
              setUnsaved(false);
              blocker.proceed();
            }}
          />
        </Suspense>
      )}
    </PlaceProvider>
  );
}

function Corner({ me, onOwn, onSignOut }: { me: Me; onOwn: () => void; onSignOut: () => void }) {
  return (
    <Menu
      align="end"
      button={{
        className: 'inline-flex items-center gap-1 rounded-stone px-2 py-1 hover:underline focus-visible:outline-white',
        children: (
          <>
            {me.member.name} <ChevronDown size={15} aria-hidden />
          </>
        ),
      }}
      entries={() => [
        {
          words: (
            <>
              {me.member.email}
              <br />
              {me.member.roles.join(', ')}
            </>
          ),
        },
        { key: 'own', label: 'Your sign-in', onSelect: onOwn },
        { key: 'print', label: 'Print this page', onSelect: () => window.print() },
        { key: 'out', label: 'Sign out', onSelect: onSignOut },
      ]}
    />
  );
}
