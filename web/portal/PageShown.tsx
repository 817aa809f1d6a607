import { lazy, Suspense } from 'react';
import { roomOf, showOf } from '../../sections/show';
import { useSectionList, type Me } from '../client/portal';
import { newRecord, useListState, usePlace } from '../place/place';
import { UnderProvider } from '../place/under';
import { Refreshed } from './Refreshed';
import type { WayOpened } from './RecordPane';
import { Notice, Skeleton } from '../ui/Notice';

/** With its form it is a good part of the portal; it comes when the first record is opened. */
const RecordPane = lazy(() => import('./RecordPane').then(({ RecordPane: pane }) => ({ default: pane })));

/** Over a page stands a record where its builder wants it so. */
const Dialog = lazy(() => import('../ui/Dialog').then(({ Dialog: over }) => ({ default: over })));

const NewRecord = lazy(() => import('./NewRecord').then(({ NewRecord: pane }) => ({ default: pane })));
/** Sections beside each other where there is room: a third never is less than a phone is wide. */
const spans = {
  full: 'col-span-6',
  'two thirds': 'col-span-6 @min-[1000px]:col-span-4',
  half: 'col-span-6 @min-[760px]:col-span-3',
  third: 'col-span-6 @min-[560px]:col-span-3 @min-[1000px]:col-span-2',
} as const;

const ChangeSection = lazy(() => import('./ChangeSection'));

type PageInfo = Me['pages'][number];

/** The records before and after the one that is open, as the list has them now, and whether it has it. */
function useBeside(
  page: string,
  list: string | null,
): { before: string | null; after: string | null; isThere: boolean } {
  const { base, spot } = usePlace();
  const { state } = useListState(list ?? '');
  const answer = useSectionList(base, page, list ?? '', state, list !== null && spot.record !== null);
  const ids = answer.data?.records.map(({ id }) => id) ?? [];
  const at = ids.indexOf(spot.record?.id ?? null);
  if (at < 0) return { before: null, after: null, isThere: answer.isPending };
  return { before: ids[at - 1] ?? null, after: ids[at + 1] ?? null, isThere: true };
}

/** A page with its sections; a record that is opened stands beside them, over them, under its line, or alone. */
export function PageShown({ page, within }: { page: PageInfo; within: boolean }) {
  const { spot, go, onSection } = usePlace();
  const Content = within ? 'section' : 'main';
  const opened = page.sections.find((each) => each.id === spot.record?.section);
  // A kind that opens records says of which table they are, and how one looks.
  const sheet = opened && 'sheet' in opened ? opened : null;
  const beside = useBeside(page.id, opened?.kind === 'list' ? opened.id : null);
  const how = sheet ? placeOf(sheet, spot.record!.id, beside.isThere) : null;
  const record = sheet && how && (
    <Suspense
      fallback={
        <div className="p-5">
          <Skeleton lines={6} />
        </div>
      }
    >
      <Opened sheet={sheet} id={spot.record!.id} how={how} beside={beside} />
    </Suspense>
  );
  const sections = (
    <div className="grid grid-cols-6 content-start gap-4 p-4 @min-[560px]:p-6 pb-20">
      <div className="col-span-6">
        <h1>{page.title}</h1>
        {page.intro && <p className="text-soft mt-1">{page.intro}</p>}
      </div>
      {page.sections.length === 0 && (
        <div className="col-span-6">
          <Notice kind="say">This page has nothing on it yet.</Notice>
        </div>
      )}
      {page.sections.map((each) => {
        const Show = showOf(each.kind);
        return (
          <section
            key={`${page.id}/${each.id}`}
            className={`part-section part-${each.kind} group/section relative flex min-w-0 flex-col gap-2 ${
              spans[each.width ?? 'full']
            }`}
            aria-label={each.title}
          >
            {onSection && <ChangeSection onPress={() => onSection(page.id, each.id)} />}
            {each.refresh && <Refreshed page={page.id} section={each.id} seconds={each.refresh} />}
            {each.title && <h2>{each.title}</h2>}
            {/* What stands within goes by the section's own width. */}
            <div className="@container flex grow flex-col">
              <Suspense
                fallback={
                  <div className={roomOf(each)}>
                    <Skeleton lines={4} />
                  </div>
                }
              >
                <Show section={each} />
              </Suspense>
            </div>
          </section>
        );
      })}
    </div>
  );
  return (
    <Content
      aria-label={within ? page.title : undefined}
      className={`part-page flex-1 grid ${how === 'beside' ? '@min-[1000px]:grid-cols-[minmax(0,1fr)_26rem]' : ''}`}
    >
      <div
        className={`@container min-w-0 ${
          how === 'page' ? 'hidden' : how === 'beside' ? 'hidden @min-[1000px]:block' : ''
        }`}
      >
        <UnderProvider
          value={
            how === 'under'
              ? { section: opened!.id, id: spot.record!.id, shown: <div className="part-record">{record}</div> }
              : null
          }
        >
          {sections}
        </UnderProvider>
      </div>
      {how === 'beside' && (
        <div className="part-record bg-paper @min-[1000px]:border-l border-line pb-20">{record}</div>
      )}
      {how === 'page' && (
        <div className="part-record bg-paper pb-20">
          <div className="mx-auto max-w-4xl">{record}</div>
        </div>
      )}
      {how === 'over' && (
        <Suspense>
          <Dialog
            title={'label' in sheet! ? sheet.label : page.title}
            wide
            open
            onOpenChange={() => go({ ...spot, record: null })}
          >
            <div className="part-record @container -mx-4">{record}</div>
          </Dialog>
        </Suspense>
      )}
    </Content>
  );
}

type Sheeted = Extract<PageInfo['sections'][number], { sheet: unknown }>;

/** Where a record stands that is opened in a section; one that its list doesn't hold now has no line to stand under. */
function placeOf(section: Sheeted, id: string, isThere: boolean): WayOpened {
  const how = 'opens' in section ? section.opens : 'beside';
  if (how !== 'under') return how;
  return id === newRecord ? 'beside' : isThere ? 'under' : 'page';
}

/** What is open: a record, or a new one. */
function Opened({
  sheet,
  id,
  how,
  beside,
}: {
  sheet: Sheeted;
  id: string;
  how: WayOpened;
  beside: { before: string | null; after: string | null };
}) {
  const may: readonly string[] = 'may' in sheet ? sheet.may : [];
  if (id === newRecord) return <NewRecord key={sheet.table} table={sheet.table} sheet={sheet.sheet} />;
  return (
    <RecordPane
      table={sheet.table}
      sheet={sheet.sheet}
      id={id}
      how={how}
      grouped={'groups' in sheet ? sheet : undefined}
      linked={'linked' in sheet ? sheet.linked : []}
      hangs={'hangs' in sheet ? sheet.hangs : []}
      doubts={'doubts' in sheet && sheet.doubts}
      deletes={may.includes('delete')}
      beside={beside}
    />
  );
}
