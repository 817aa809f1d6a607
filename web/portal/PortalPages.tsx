import { lazy, Suspense, useCallback } from 'react';
import { Notice, Skeleton } from '../ui/Notice';
import type { Me } from '../client/portal';
import { showOf } from '../../sections/show';
import { pageSpot, SpotLink, usePlace, type Spot } from '../place/place';
import { RecordLinksProvider, type RecordSpot } from '../records/record-links';

/** With its form it is a good part of the portal; it comes when the first record is opened. */
const RecordPane = lazy(() => import('./RecordPane').then(({ RecordPane: pane }) => ({ default: pane })));

/**
 * A portal for one person: its top with the pages, and the page they are on. Fits any width, also a pane's; `within`
 * another page it is a part of that, which has a main part of its own.
 */
export function PortalPages({ me, corner, within = false }: { me: Me; corner: React.ReactNode; within?: boolean }) {
  const Content = within ? 'section' : 'main';
  const pagesLabel = within ? 'Pages that they get' : 'Pages';
  const { spot, href, go } = usePlace();
  // A record is opened where its table is listed, best on this page.
  const leads = useCallback<RecordSpot>(
    (table, id) => {
      const lists = me.pages.flatMap((each) =>
        each.sections.flatMap((section) =>
          'sheet' in section && section.table === table ? [{ page: each.id, section: section.id }] : [],
        ),
      );
      const at = lists.find(({ page }) => page === spot.page) ?? lists[0];
      if (!at) return null;
      const to: Spot = { ...pageSpot(at.page), record: { section: at.section, id } };
      return { href: href(to), go: () => go(to) };
    },
    [me, spot.page, href, go],
  );
  const page = me.pages.find((each) => each.id === spot.page);
  const opened = page?.sections.find((each) => each.id === spot.record?.section);
  // A kind that opens records says of which table they are, and how one looks.
  const sheet = opened && 'sheet' in opened ? opened : null;
  const beside = sheet !== null;
  return (
    <RecordLinksProvider value={leads}>
      <div className="@container flex min-h-full shrink-0 grow basis-auto flex-col bg-ground">
        <header className="text-white" style={{ background: me.portal.colour }}>
          <div className="flex flex-wrap items-center gap-x-6 px-4 @min-[560px]:px-6 min-h-13">
            <span className="font-head font-bold text-lg py-2">{me.portal.name}</span>
            <nav aria-label={pagesLabel} className="hidden @min-[560px]:flex flex-wrap gap-x-5 self-stretch">
              {me.pages.map((each) => (
                <SpotLink
                  key={each.id}
                  to={pageSpot(each.id)}
                  aria-current={each.id === spot.page ? 'page' : undefined}
                  className={
                    'inline-flex items-center py-3 text-white no-underline border-b-3 ' +
                    `${each.id === spot.page ? 'border-white font-semibold' : 'border-transparent hover:underline'}`
                  }
                >
                  {each.title}
                </SpotLink>
              ))}
            </nav>
            <div className="ml-auto py-2">{corner}</div>
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
        {page && (
          <div className={`flex-1 grid ${beside ? '@min-[1000px]:grid-cols-[minmax(0,1fr)_26rem]' : ''}`}>
            <Content
              aria-label={within ? page.title : undefined}
              className={
                'grid content-start gap-4 p-4 @min-[560px]:p-6 pb-20 ' + (beside ? 'hidden @min-[1000px]:grid' : '')
              }
            >
              <div>
                <h1>{page.title}</h1>
                {page.intro && <p className="text-soft mt-1">{page.intro}</p>}
              </div>
              {page.sections.length === 0 && <Notice kind="say">This page has nothing on it yet.</Notice>}
              {page.sections.map((each) => {
                const Show = showOf(each.kind);
                return (
                  <section key={`${page.id}/${each.id}`} className="grid gap-2" aria-label={each.title}>
                    {each.title && <h2>{each.title}</h2>}
                    <Suspense fallback={<Skeleton lines={4} />}>
                      <Show section={each} />
                    </Suspense>
                  </section>
                );
              })}
            </Content>
            {beside && (
              <div className="bg-paper @min-[1000px]:border-l border-line pb-20">
                <Suspense
                  fallback={
                    <div className="p-5">
                      <Skeleton lines={6} />
                    </div>
                  }
                >
                  <RecordPane table={sheet.table} sheet={sheet.sheet} id={spot.record!.id} />
                </Suspense>
              </div>
            )}
          </div>
        )}
        <nav
          aria-label={pagesLabel}
          className="@min-[560px]:hidden sticky bottom-0 z-10 flex border-t border-line-strong bg-paper overflow-x-auto"
        >
          {me.pages.map((each) => (
            <SpotLink
              key={each.id}
              to={pageSpot(each.id)}
              aria-current={each.id === spot.page ? 'page' : undefined}
              className={
                'flex-1 min-w-max px-3 py-3 text-center text-sm no-underline ' +
                `${each.id === spot.page ? 'font-bold text-ink shadow-[inset_0_3px_0_var(--lichen)]' : 'text-soft'}`
              }
            >
              {each.title}
            </SpotLink>
          ))}
        </nav>
      </div>
    </RecordLinksProvider>
  );
}
