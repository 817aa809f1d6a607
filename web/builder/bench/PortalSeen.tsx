import { counted } from '../../../core/text/counted';
import { useMemo, useState } from 'react';
import { Monitor, Smartphone, Tablet } from 'lucide-react';
import { useNavigate } from 'react-router';
import { problemText } from '../../client/http';
import { seenByBase } from '../../client/bench';
import { useSeenCount } from '../../client/builder';
import { useDraftStylesheet } from '../../client/face';
import { homeOf, useMe } from '../../client/portal';
import { pageSpot, PlaceProvider, type Place, type Spot } from '../../place/place';
import { FaceProvider } from '../../portal/face';
import { PortalPages } from '../../portal/PortalPages';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench, type BenchPerson } from './bench-context';
import { useNames } from './names';
import type { AskedCell } from './WhyCard';

interface Seen {
  person: BenchPerson;
  /** The page that is worked on; the first that they get when null. */
  page: string | null;
  onWhy: (cell: AskedCell) => void;
}

/** The portal's pages as the person gets them, moved about in without leaving the bench; at any width on request. */
export default function PortalSeen(seen: Seen) {
  const [device, setDevice] = useState<Device | null>(null);
  const { person } = seen;
  return (
    <>
      <div className="flex items-center gap-1">
        <span className="mr-auto text-sm text-soft">As on a</span>
        {devices.map((each) => (
          <Button key={each.name} small weight="quiet" onClick={() => setDevice(each)}>
            <each.icon size={15} aria-hidden /> {each.name}
          </Button>
        ))}
      </div>
      <PortalAt {...seen} />
      <Dialog
        whole
        title={`As ${person.name} gets it`}
        open={device !== null}
        onOpenChange={(open) => !open && setDevice(null)}
      >
        <div role="group" aria-label="Width" className="flex flex-wrap gap-1">
          {devices.map((each) => (
            <Button
              key={each.name}
              small
              weight={each === device ? 'main' : 'plain'}
              aria-pressed={each === device}
              onClick={() => setDevice(each)}
            >
              <each.icon size={15} aria-hidden /> {each.name}
            </Button>
          ))}
        </div>
        {device && (
          <div
            data-testid="device"
            className="mx-auto flex min-h-0 w-full flex-1 flex-col"
            style={{ maxWidth: device.width }}
          >
            <PortalAt
              {...seen}
              onWhy={(cell) => {
                setDevice(null);
                seen.onWhy(cell);
              }}
              onLeave={() => setDevice(null)}
            />
          </div>
        )}
      </Dialog>
    </>
  );
}

/** Widths that people look at a portal with, in CSS pixels. */
const devices = [
  { name: 'phone', width: 390, icon: Smartphone },
  { name: 'tablet', width: 820, icon: Tablet },
  { name: 'desk', width: 1600, icon: Monitor },
] as const;

type Device = (typeof devices)[number];

/** The portal in the width that there is. */
function PortalAt({ person, page, onWhy, onLeave }: Seen & { onLeave?: () => void }) {
  const { slug, state, draft, to } = useBench();
  const logo = draft.portal.face?.logo ?? null;
  const face = useMemo(() => ({ logo, welcome: null, footer: [] }), [logo]);
  const own = useDraftStylesheet(slug, state.revision, draft.portal.face?.stylesheet !== undefined);
  const names = useNames();
  const base = seenByBase(slug, person.id);
  const me = useMe(base);
  const [spot, setSpot] = useState<Spot>(pageSpot(page ?? ''));
  const [asked, setAsked] = useState(page);
  if (page !== asked) {
    setAsked(page);
    setSpot(pageSpot(page ?? ''));
  }
  const first = homeOf(me.data?.pages ?? [])?.id ?? '';
  const here = useMemo(() => (spot.page === '' ? { ...spot, page: first } : spot), [spot, first]);
  const navigate = useNavigate();
  const place = useMemo(
    (): Place => ({
      spot: here,
      go: setSpot,
      href: () => '#',
      base,
      seenBy: true,
      setUnsaved: () => undefined,
      onAskWhy: (table, id, column) => onWhy({ table, id, column }),
      onSection: (of, section) => {
        onLeave?.();
        void navigate(to('pages', of, { section }));
      },
    }),
    [here, base, onWhy, onLeave, navigate, to],
  );
  const table = me.data?.pages
    .find((each) => each.id === here.page)
    ?.sections.find((each) => each.kind === 'list')?.table;
  const count = useSeenCount(slug, person.id, table ?? '', state.revision);
  if (me.isPending) return <Skeleton />;
  if (me.isError)
    return (
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
    );
  const barred = page !== null && !me.data.pages.some((each) => each.id === page);
  return (
    // What the portal's own stylesheet fixes to the window is held here.
    <section className="flex min-h-100 flex-1 flex-col rounded-stone border border-line contain-layout">
      {own.data && draft.portal.face?.stylesheet && <style>{own.data.css}</style>}
      <div className="flex min-h-0 flex-1 flex-col overflow-y-auto">
        {barred && here.page === page ? (
          <div className="p-3">
            <Notice
              kind="say"
              action={
                me.data.pages[0] && (
                  <Button small onClick={() => setSpot(pageSpot(first))}>
                    Show their pages
                  </Button>
                )
              }
            >
              {person.name} doesn't get this page.
            </Notice>
          </div>
        ) : (
          <PlaceProvider value={place}>
            <FaceProvider value={face}>
              <PortalPages within me={me.data} corner={<span className="text-sm">{me.data.member.name}</span>} />
            </FaceProvider>
          </PlaceProvider>
        )}
      </div>
      {table && count.data && !barred && (
        <p className="border-t border-line bg-paper px-3 py-2 text-sm text-soft" data-testid="seen-count">
          <strong className="text-ink">{count.data.seen.toLocaleString()}</strong>
          {` of ${counted(count.data.total, 'row')} of ${names.tableInText(table)} `}
          {count.data.seen === 1 ? 'is' : 'are'} shown to {person.name}
        </p>
      )}
    </section>
  );
}
