import { useQueryClient } from '@tanstack/react-query';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { problemText } from '../../web/client/http';
import { useSectionList, type ColumnInfo, type ListAnswer } from '../../web/client/portal';
import { Button } from '../../web/ui/Button';
import { isAmount, NotNow } from '../../web/records/Cell';
import { Notice, Skeleton } from '../../web/ui/Notice';
import { FilterBar } from '../../web/records/FilterBar';
import { RecordCell } from '../../web/records/RecordCell';
import { SpotLink, useListState, usePlace } from '../../web/place/place';
import type { ShowProps } from '../show';
import { Pager } from './Pager';

/** The list of a section: a table where there is room, a stack of record lines where there isn't. */
type ListInfo = ShowProps<'list'>['section'];

export default function ListShow({ section }: ShowProps<'list'>) {
  const { base, spot } = usePlace();
  const { state, clear, narrow } = useListState(section.id);
  const client = useQueryClient();
  const answer = useSectionList(base, spot.page, section.id, state);
  const noun = section.label.toLowerCase();
  const narrowed = state.search !== '' || state.filter !== '';
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
      <div className="flex flex-wrap items-center gap-2">
        <FilterBar
          key={spot.page}
          base={base}
          table={section.table}
          columns={section.columns}
          noun={noun}
          search={state.search}
          filter={state.filter}
          onNarrow={narrow}
        />
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
          {problemText(answer.error)}
        </Notice>
      )}
      {answer.isPending && <Skeleton lines={6} />}
      {answer.data &&
        !answer.isError &&
        (answer.data.total === 0 ? (
          <Empty noun={noun} narrowed={narrowed} onClear={clear} />
        ) : (
          <div
            aria-busy={answer.isPlaceholderData}
            className={`grid gap-3 transition-opacity ${answer.isPlaceholderData ? 'opacity-60' : ''}`}
          >
            <Table section={section} answer={answer.data} />
            <Pager section={section.id} answer={answer.data} noun={noun} />
          </div>
        ))}
    </div>
  );
}

function Empty({ noun, narrowed, onClear }: { noun: string; narrowed: boolean; onClear: () => void }) {
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

function Table({ section, answer }: { section: ListInfo; answer: ListAnswer }) {
  const { go, onAskWhy } = usePlace();
  const { open: opened, at } = useListState(section.id);
  const [title, ...rest] = section.columns;
  return (
    <div className="rounded-stone border border-line bg-paper overflow-hidden">
      <div className="hidden @min-[560px]:block overflow-x-auto">
        <table className="w-full text-left">
          <thead>
            <tr className="border-b border-line">
              {section.columns.map((column) => (
                <SortHead key={column.path} section={section.id} column={column} initial={section.sort} />
              ))}
            </tr>
          </thead>
          <tbody>
            {answer.records.map((record) => {
              const open = at(record.id);
              const current = record.id !== null && record.id === opened;
              return (
                <tr
                  key={record.id}
                  aria-current={current || undefined}
                  className={
                    'border-b border-line last:border-0 hover:bg-sunk cursor-pointer ' +
                    `${current ? 'bg-water-wash shadow-[inset_3px_0_0_var(--water)]' : ''}`
                  }
                  onClick={(event) => {
                    if (!(event.target as HTMLElement).closest('a,button')) go(open);
                  }}
                >
                  {section.columns.map((column, i) => (
                    <td key={column.path} className={`px-3 py-2 align-top ${isAmount(column) ? 'text-right' : ''}`}>
                      {i === 0 ? (
                        <SpotLink to={open} className="font-semibold text-ink hover:underline">
                          <ListCell plain section={section} column={column} record={record} answer={answer} />
                        </SpotLink>
                      ) : (
                        <ListCell section={section} column={column} record={record} answer={answer} />
                      )}
                      {onAskWhy && record.masked.includes(column.path) && record.id && (
                        <button
                          type="button"
                          className="ml-1 text-xs text-water underline"
                          onClick={() => onAskWhy(section.table, record.id!, column.path)}
                        >
                          why?
                        </button>
                      )}
                    </td>
                  ))}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <ul className="@min-[560px]:hidden">
        {answer.records.map((record) => (
          <li key={record.id} className="border-b border-line last:border-0">
            <SpotLink
              to={at(record.id)}
              aria-current={record.id === opened || undefined}
              className={
                'grid gap-0.5 px-3 py-2.5 text-ink no-underline ' + `${record.id === opened ? 'bg-water-wash' : ''}`
              }
            >
              <span className="font-semibold">
                <ListCell plain section={section} column={title!} record={record} answer={answer} />
              </span>
              <span className="flex flex-wrap gap-x-3 text-sm text-soft">
                {rest.map(
                  (column) =>
                    (isAway(column, answer) || !isEmpty(record.values[column.path])) && (
                      <span key={column.path}>
                        <span
                          className={
                            !isAway(column, answer) && ['text', 'one choice', 'several choices'].includes(column.type)
                              ? 'sr-only'
                              : ''
                          }
                        >
                          {column.label}:{' '}
                        </span>
                        <ListCell plain section={section} column={column} record={record} answer={answer} />
                      </span>
                    ),
                )}
              </span>
            </SpotLink>
          </li>
        ))}
      </ul>
    </div>
  );
}

const isAway = (column: ColumnInfo, answer: ListAnswer) =>
  column.away === true || answer.away?.includes(column.path) === true;
const isEmpty = (value: unknown) => value === undefined || value === null || value === '';

function ListCell({
  section,
  column,
  record,
  answer,
  plain,
}: {
  section: ListInfo;
  column: ColumnInfo;
  record: ListAnswer['records'][number];
  answer: ListAnswer;
  plain?: boolean;
}) {
  const { base } = usePlace();
  if (isAway(column, answer)) return <NotNow />;
  return <RecordCell base={base} table={section.table} column={column} record={record} plain={plain} />;
}

function SortHead({ section, column, initial }: { section: string; column: ColumnInfo; initial: ListInfo['sort'] }) {
  const { state, turn } = useListState(section);
  const first = initial[0];
  const sort = state.sort || (first ? `${first.descending ? '-' : ''}${first.column}` : '');
  const direction = sort === column.path ? 'ascending' : sort === `-${column.path}` ? 'descending' : undefined;
  const label = (
    <>
      {column.label}
      {direction === 'ascending' && <ArrowUp size={13} aria-hidden />}
      {direction === 'descending' && <ArrowDown size={13} aria-hidden />}
    </>
  );
  return (
    <th
      scope="col"
      aria-sort={direction}
      className={
        'px-3 py-2 text-sm font-semibold text-soft whitespace-nowrap ' + `${isAmount(column) ? 'text-right' : ''}`
      }
    >
      {column.sortable ? (
        <button
          type="button"
          className="inline-flex items-center gap-1 font-semibold hover:text-ink"
          onClick={() =>
            turn({
              sort: direction === 'ascending' ? `-${column.path}` : column.path,
              after: '',
              before: '',
            })
          }
        >
          {label}
        </button>
      ) : (
        <span className="inline-flex items-center gap-1">{label}</span>
      )}
    </th>
  );
}
