import { lazy, Suspense, useCallback, useState, type CSSProperties } from 'react';
import { Notice } from '../ui/Notice';
import type { Me } from '../client/portal';
import { DoneProvider, type DoneHere } from '../place/done';
import { pageSpot, SpotLink, usePlace, type Spot } from '../place/place';
import { RecordLinksProvider, type RecordSpot } from '../records/record-links';
import { Footer, useFace, useTypes } from './face';
import { PageShown } from './PageShown';

/** Nothing was done yet on most pages that are only read. */
const DoneBar = lazy(() => import('./DoneBar').then(({ DoneBar: bar }) => ({ default: bar })));

const PageIcon = lazy(() => import('./PageIcon'));

/** A page's title, with its small picture where it has one: before it, or above it on a phone. */
function Titled({ page: { title, icon } }: { page: Me['pages'][number] }) {
  if (icon === null) return title;
  return (
    <span className="inline-flex flex-col items-center gap-x-1.5 gap-y-0.5 @min-[560px]:flex-row">
      <Suspense fallback={<span className="size-4" />}>
        <PageIcon icon={icon} />
      </Suspense>
      {title}
    </span>
  );
}

/**
 * A portal for one person: its top with the pages, and the page they are on. Fits any width, also a pane's; `within`
 * another page it is a part of that, which has a main part of its own.
 */
export function PortalPages({ me, corner, within = false }: { me: Me; corner: React.ReactNode; within?: boolean }) {
  const pagesLabel = within ? 'Pages that they get' : 'Pages';
  const { spot, href, go } = usePlace();
  // A record is opened where its table is listed, best on this page, else where not only a few of it are.
  const leads = useCallback<RecordSpot>(
    (table, id) => {
      const lists = me.pages.flatMap((each) =>
        each.sections.flatMap((section) =>
          'sheet' in section && section.table === table
            ? [{ page: each.id, section: section.id, whole: section.kind === 'list' && !section.bare }]
            : [],
        ),
      );
      const at = lists.find(({ page }) => page === spot.page) ?? lists.find(({ whole }) => whole) ?? lists[0];
      if (!at) return null;
      const to: Spot = { ...pageSpot(at.page), record: { section: at.section, id } };
      return { href: href(to), go: () => go(to) };
    },
    [me, spot.page, href, go],
  );
  const { look } = me.portal;
  const { logo } = useFace();
  useTypes(look.type);
  const page = me.pages.find((each) => each.id === spot.page);
  const listed = me.pages.filter((each) => each.listed);
  const [done, setDone] = useState<DoneHere | null>(null);
  return (
    <RecordLinksProvider value={leads}>
      <DoneProvider value={setDone}>
        <div
          className={`@container flex min-h-full shrink-0 grow basis-auto flex-col bg-ground font-sans text-ink ${
            within ? 'face portal' : ''
          }`}
          style={within ? (look.style as CSSProperties) : undefined}
          data-theme={within && look.theme !== 'device' ? look.theme : undefined}
        >
          <header className="part-top bg-(--top) text-white">
            {/* Floats: where the pages do not fit between the name and the corner, they alone go below. */}
            <div className="flow-root px-4 @min-[560px]:px-6">
              <span className="float-left mr-6 flex min-h-13 items-center gap-3 py-2 font-head text-lg font-bold">
                {logo && (
                  <img src={logo} alt="" className="max-h-9 max-w-40 rounded-stone bg-white object-contain p-0.5" />
                )}
                {me.portal.name}
              </span>
              <div className="float-right flex min-h-13 items-center">{corner}</div>
              <nav
                aria-label={pagesLabel}
                className="part-pages hidden max-w-full flex-wrap gap-x-5 align-top @min-[560px]:inline-flex"
              >
                {listed.map((each) => (
                  <SpotLink
                    key={each.id}
                    to={pageSpot(each.id)}
                    aria-current={each.id === spot.page ? 'page' : undefined}
                    className={
                      'inline-flex min-h-13 items-center border-b-3 pt-0.75 text-white no-underline ' +
                      `${each.id === spot.page ? 'border-white font-semibold' : 'border-transparent hover:underline'}`
                    }
                  >
                    <Titled page={each} />
                  </SpotLink>
                ))}
              </nav>
            </div>
          </header>
          {me.pages.length === 0 && (
            <div className="p-6">
              <Notice kind="say">No page of this portal is open to you yet. Ask the people who run it.</Notice>
            </div>
          )}
          {me.pages.length > 0 && !page && (
            <div className="p-6">
              <Notice kind="fault">There is no such page, or it isn't open to you. Choose one above.</Notice>
            </div>
          )}
          {page && <PageShown page={page} within={within} />}
          <div className="mt-auto">
            <Footer footer={look.footer} />
          </div>
          {done && (
            <Suspense>
              <DoneBar done={done} onDone={setDone} />
            </Suspense>
          )}
          <nav
            aria-label={pagesLabel}
            className={
              'part-pages @min-[560px]:hidden sticky bottom-0 z-10 flex border-t border-line-strong bg-paper ' +
              'overflow-x-auto'
            }
          >
            {listed.map((each) => (
              <SpotLink
                key={each.id}
                to={pageSpot(each.id)}
                aria-current={each.id === spot.page ? 'page' : undefined}
                className={
                  'flex-1 min-w-max px-3 py-3 text-center text-sm no-underline ' +
                  `${each.id === spot.page ? 'font-bold text-ink shadow-[inset_0_3px_0_var(--lichen)]' : 'text-soft'}`
                }
              >
                <Titled page={each} />
              </SpotLink>
            ))}
          </nav>
        </div>
      </DoneProvider>
    </RecordLinksProvider>
  );
}
