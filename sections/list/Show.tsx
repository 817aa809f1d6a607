import { useQueryClient } from '@tanstack/react-query';
import { Bookmark, SlidersHorizontal } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { useActions } from '../../web/client/actions';
import { useSectionList } from '../../web/client/portal';
import { Button } from '../../web/ui/Button';
import { Notice, Skeleton } from '../../web/ui/Notice';
import { askedText } from '../../web/records/Answered';
import { FilterBar } from '../../web/records/FilterBar';
import { newRecord, SpotLink, useListState, usePlace } from '../../web/place/place';
import { buttonLook } from '../../web/ui/Button';
import type { ShowProps } from '../show';
import { ListTable } from './ListTable';
import { useAsLeft } from './as-left';
import { askedColumns, offeredColumns } from './arranged';
import { Pager } from '../../web/records/Pager';

const ListChart = lazy(() => import('./ListChart'));
const TakeOut = lazy(() => import('./TakeOut'));
const Picked = lazy(() => import('./Picked'));
const Tabs = lazy(() => import('./Tabs'));
const Views = lazy(() => import('./Views'));
const Arrange = lazy(() => import('./Arrange'));

/** The list of a section, with what can be done in it. */
export default function ListShow({ section }: ShowProps<'list'>) {
  const { base, spot, seenBy, isVisitor } = usePlace();
  const { state, clear: showWhole, narrow, at } = useListState(section.id);
  const { isComing, keep } = useAsLeft(section.id);
  const clear = () => {
    // An order that can't be had any more is not what they get the next time.
    keep({ ...state, sort: '' });
    showWhole();
  };
  // Ticks are of what is found: of other records, none is ticked.
  const question = JSON.stringify([spot.page, state.view, state.search, state.filter]);
  const [ticked, setTicked] = useState({ question, ids: new Set<string>() as ReadonlySet<string> });
  const picks = {
    ids: ticked.question === question ? ticked.ids : new Set<string>(),
    pick: (ids: ReadonlySet<string>) => setTicked({ question, ids }),
  };
  const may = (act: (typeof section.may)[number]) => section.may.includes(act);
  const hasActions = useActions(base, section.table).some(({ several }) => several);
  // A record can be ticked where something can be done with several of them.
  const canTick = hasActions || (may('delete') && !seenBy);
  const client = useQueryClient();
  const asked = { ...state, columns: askedColumns(section, state.columns) };
  const [wantsArranging, setWantsArranging] = useState(false);
  const answer = useSectionList(base, spot.page, section.id, asked, !isComing);
  const noun = section.label.toLowerCase();
  // What was looked for by way of an address can be taken off again.
  const isBare = section.bare && state.search === '' && state.filter === '';
  const narrowed = state.search !== '' || state.filter !== '';
  const [wantsViews, setWantsViews] = useState(false);
  const views = (
    <Button onClick={() => setWantsViews(true)}>
      <Bookmark size={15} aria-hidden /> Views
    </Button>
  );
  const arrange = (
    <Button onClick={() => setWantsArranging(true)}>
      <SlidersHorizontal size={15} aria-hidden /> Arrange
    </Button>
  );
  if (section.away)
    return (
      <Notice
        kind="warn"
        action={
          <Button small onClick={() => void client.invalidateQueries({ queryKey: [base] })}>
            Try again
          </Button>
        }
      >
        The place that holds {noun} can't be reached at the moment. Everything else works; try again in a few minutes.
      </Notice>
    );
  if (section.columns.length === 0)
    return (
      <Notice kind="say">
        Nothing of {noun} is open to you. If you expect something here, ask the people who run this portal.
      </Notice>
    );
  return (
    <div className="grid gap-3">
      {section.tabs.length > 0 && (
        <Suspense fallback={<div className="h-10 border-b border-line" />}>
          <Tabs section={section} noun={noun} />
        </Suspense>
      )}
      <div className="flex flex-wrap items-center gap-2 [&:has(>span:only-child:empty)]:hidden">
        {!isBare && (
          <FilterBar
            key={spot.page}
            base={base}
            table={section.table}
            columns={offeredColumns(section)}
            noun={noun}
            search={state.search}
            filter={state.filter}
            onNarrow={narrow}
          />
        )}
        <span className="no-print ml-auto flex gap-2">
          {!isBare &&
            !seenBy &&
            !isVisitor &&
            (wantsViews ? (
              <Suspense fallback={views}>
                <Views section={section.id} noun={noun} />
              </Suspense>
            ) : (
              views
            ))}
          {!isBare &&
            (wantsArranging ? (
              <Suspense fallback={arrange}>
                <Arrange section={section} />
              </Suspense>
            ) : (
              arrange
            ))}
          {may('export') && (
            <Suspense>
              <TakeOut section={section.id} state={state} total={answer.data?.total ?? null} noun={noun} />
            </Suspense>
          )}
          {may('create') && !section.bare && (
            <SpotLink to={at(newRecord)} className={buttonLook('main')}>
              Add
            </SpotLink>
          )}
        </span>
      </div>
      {answer.isError && (
        <Notice
          kind="fault"
          action={
            narrowed || state.sort || state.after ? (
              <Button small onClick={clear}>
                Show the whole list
              </Button>
            ) : (
              <Button small onClick={() => void answer.refetch()}>
                Try again
              </Button>
            )
          }
        >
          {askedText(answer.error, narrowed || state.sort !== '')}
        </Notice>
      )}
      {answer.isPending && <Skeleton lines={6} />}
      {answer.data &&
        !answer.isError &&
        (answer.data.total === 0 ? (
          <Empty noun={noun} narrowed={narrowed} isTab={section.tabs.length > 0} onClear={clear} />
        ) : (
          <div
            aria-busy={answer.isPlaceholderData}
            className={`grid gap-3 transition-opacity ${answer.isPlaceholderData ? 'opacity-60' : ''}`}
          >
            {picks.ids.size > 0 && (
              <Suspense>
                <Picked
                  section={section.id}
                  table={section.table}
                  noun={noun}
                  total={answer.data.total}
                  picks={picks}
                  deletes={may('delete')}
                />
              </Suspense>
            )}
            {state.chart !== '' && (
              <Suspense fallback={<Skeleton lines={6} />}>
                <ListChart section={section} />
              </Suspense>
            )}
            <ListTable section={section} answer={answer.data} picks={canTick ? picks : null} />
            <Pager section={section.id} answer={answer.data} noun={noun} />
          </div>
        ))}
    </div>
  );
}

function Empty({
  noun,
  narrowed,
  isTab,
  onClear,
}: {
  noun: string;
  narrowed: boolean;
  isTab: boolean;
  onClear: () => void;
}) {
  if (isTab && !narrowed) return <Notice kind="say">No {noun} are in this view now.</Notice>;
  return narrowed ? (
    <Notice
      kind="say"
      action={
        <Button small onClick={onClear}>
          Show all
        </Button>
      }
    >
      Nothing here matches what you look for.
    </Notice>
  ) : (
    <Notice kind="say">
      There is nothing here yet. When {noun} are entered for you, they appear in this list. If you expect some already,
      ask the people who run this portal.
    </Notice>
  );
}
