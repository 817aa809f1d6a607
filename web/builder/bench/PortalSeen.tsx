import { counted } from '../../../core/text/counted';
import { useMemo, useState } from 'react';
import { problemText } from '../../client/http';
import { seenByBase } from '../../client/bench';
import { useSeenCount } from '../../client/builder';
import { useMe } from '../../client/portal';
import { pageSpot, PlaceProvider, type Place, type Spot } from '../../place/place';
import { FaceProvider } from '../../portal/face';
import { PortalPages } from '../../portal/PortalPages';
import { Button } from '../../ui/Button';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench, type BenchPerson } from './bench-context';
import { useNames } from './names';
import type { AskedCell } from './WhyCard';

/** The portal's pages as the person gets them, moved about in without leaving the bench. */
export default function PortalSeen({
  person,
  page,
  onWhy,
}: {
  person: BenchPerson;
  page: string | null;
  onWhy: (cell: AskedCell) => void;
}) {
  const { slug, state, draft } = useBench();
  const logo = draft.portal.face?.logo ?? null;
  const face = useMemo(() => ({ logo, welcome: null, footer: [] }), [logo]);
  const names = useNames();
  const base = seenByBase(slug, person.id);
  const me = useMe(base);
  const [spot, setSpot] = useState<Spot>(pageSpot(page ?? ''));
  const [asked, setAsked] = useState(page);
  if (page !== asked) {
    setAsked(page);
    setSpot(pageSpot(page ?? ''));
  }
  const first = me.data?.pages[0]?.id ?? '';
  const here = useMemo(() => (spot.page === '' ? { ...spot, page: first } : spot), [spot, first]);
  const place = useMemo(
    (): Place => ({
      spot: here,
      go: setSpot,
      href: () => '#',
      base,
      seenBy: true,
      setUnsaved: () => undefined,
      onAskWhy: (table, id, column) => onWhy({ table, id, column }),
    }),
    [here, base, onWhy],
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
    <section className="flex min-h-100 flex-1 flex-col rounded-stone border border-line">
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
