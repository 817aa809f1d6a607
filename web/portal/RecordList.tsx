import { useQueryClient } from '@tanstack/react-query';
import { ArrowDown, ArrowUp, ChevronLeft, ChevronRight } from 'lucide-react';
import { problemText } from '../client/http';
import { useSectionList, type ColumnInfo, type ListAnswer, type SectionInfo } from '../client/portal';
import { Button } from '../ui/Button';
import { Cell, isNumeric, NotNow } from '../ui/Cell';
import { Notice, Skeleton } from '../ui/Notice';
import { FilterBar } from './FilterBar';
import { plainQuery, SpotLink, usePlace } from './place';

/** The list of a section: a table where there is room, a stack of record lines where there isn't. */
export function RecordList({ section, index }: { section: SectionInfo; index: number }) {
  const { base, spot, go } = usePlace();
  const client = useQueryClient();
  const answer = useSectionList(base, spot.page, index, spot.query);
  const noun = section.label.toLowerCase();
  const narrowed = spot.query.search !== '' || spot.query.filter !== '';
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
      <FilterBar key={spot.page} columns={section.columns} noun={noun} />
      {answer.isError && (
        <Notice
          kind="fault"
          action={
            narrowed || spot.query.sort || spot.query.after ? (
              <Button small onClick={() => go({ ...spot, query: plainQuery })}>
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
          <Empty noun={noun} narrowed={narrowed} onClear={() => go({ ...spot, query: plainQuery })} />
        ) : (
          <div
            aria-busy={answer.isPlaceholderData}
            className={`grid gap-3 transition-opacity ${answer.isPlaceholderData ? 'opacity-60' : ''}`}
          >
            <Table section={section} answer={answer.data} />
            <Pager answer={answer.data} noun={noun} />
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

function Table({ section, answer }: { section: SectionInfo; answer: ListAnswer }) {
  const { spot, go, onAskWhy } = usePlace();
  const [title, ...rest] = section.columns;
  return (
    <div className="rounded-stone border border-line bg-paper overflow-hidden">
      <div className="hidden @min-[560px]:block overflow-x-auto">
        <table className="w-full text-left">
          <thead>
            <tr className="border-b border-line">
              {section.columns.map((column) => (
                <SortHead key={column.path} column={column} initial={section.sort} />
              ))}
            </tr>
          </thead>
          <tbody>
            {answer.records.map((record) => {
              const open = { ...spot, record: record.id };
              const current = record.id === spot.record;
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
                    <td
                      key={column.path}
                      className={`px-3 py-2 align-top ${isNumeric(column.type) && !column.veiled ? 'text-right' : ''}`}
                    >
                      {i === 0 ? (
                        <SpotLink to={open} className="font-semibold text-ink hover:underline">
                          <ListCell column={column} record={record} answer={answer} />
                        </SpotLink>
                      ) : (
                        <ListCell column={column} record={record} answer={answer} />
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
              to={{ ...spot, record: record.id }}
              aria-current={record.id === spot.record || undefined}
              className={
                'grid gap-0.5 px-3 py-2.5 text-ink no-underline ' +
                `${record.id === spot.record ? 'bg-water-wash' : ''}`
              }
            >
              <span className="font-semibold">
                <ListCell column={title!} record={record} answer={answer} />
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
                        <ListCell column={column} record={record} answer={answer} />
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
  column,
  record,
  answer,
}: {
  column: ColumnInfo;
  record: ListAnswer['records'][number];
  answer: ListAnswer;
}) {
  if (isAway(column, answer)) return <NotNow />;
  return (
    <Cell
      type={column.type}
      notes={column}
      value={record.values[column.path]}
      masked={record.masked.includes(column.path)}
    />
  );
}

function SortHead({ column, initial }: { column: ColumnInfo; initial: SectionInfo['sort'] }) {
  const { spot, go } = usePlace();
  const first = initial[0];
  const sort = spot.query.sort || (first ? `${first.descending ? '-' : ''}${first.column}` : '');
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
        'px-3 py-2 text-sm font-semibold text-soft whitespace-nowrap ' +
        `${isNumeric(column.type) && !column.veiled ? 'text-right' : ''}`
      }
    >
      {column.sortable ? (
        <button
          type="button"
          className="inline-flex items-center gap-1 font-semibold hover:text-ink"
          onClick={() =>
            go({
              ...spot,
              query: {
                ...spot.query,
                sort: direction === 'ascending' ? `-${column.path}` : column.path,
                after: '',
                before: '',
              },
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

function Pager({ answer, noun }: { answer: ListAnswer; noun: string }) {
  const { spot, go } = usePlace();
  const turn = (change: { after?: string; before?: string }) =>
    go({ ...spot, query: { ...spot.query, after: '', before: '', ...change } });
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm text-soft">
      <span aria-live="polite">
        {answer.records.length === answer.total
          ? `${answer.total.toLocaleString()} in all`
          : `${answer.records.length} of ${answer.total.toLocaleString()} ${noun}`}
      </span>
      {(answer.next || answer.previous) && (
        <span className="ml-auto flex gap-2">
          <Button small disabled={!answer.previous} onClick={() => turn({ before: answer.previous! })}>
            <ChevronLeft size={15} aria-hidden /> Back
          </Button>
          <Button small disabled={!answer.next} onClick={() => turn({ after: answer.next! })}>
            Further <ChevronRight size={15} aria-hidden />
          </Button>
        </span>
      )}
    </div>
  );
}
