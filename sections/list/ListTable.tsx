import { Fragment, lazy, Suspense, useRef } from 'react';
import { ArrowDown, ArrowUp } from 'lucide-react';
import type { ColumnInfo, ListAnswer } from '../../web/client/portal';
import { cellText, isAmount, NotNow } from '../../web/records/Cell';
import { labelOf } from '../../web/records/options';
import { RecordCell, titleIn } from '../../web/records/RecordCell';
import { calledOf } from './called';
import { PickAll, PickOne, useTickable, type Picks } from './Ticks';
import { columnsOf, termsOf } from './arranged';
import { MarkSign } from './MarkSign';
import { SpotLink, useListState, usePlace } from '../../web/place/place';
import { useUnder } from '../../web/place/under';
import { useIsWide } from './is-wide';
import { useAsLeft } from './as-left';
import { Edge } from './Edge';
import { useWidths, type Sizing } from './widths';
import type { ShowProps } from '../show';

type ListInfo = ShowProps<'list'>['section'];

const ChangingCell = lazy(() => import('./ChangingCell'));
const AddLine = lazy(() => import('./AddLine'));
const RowActs = lazy(() => import('../../web/records/RowActs'));
const TotalsRow = lazy(() => import('./TotalsRow'));
const TotalsLine = lazy(() => import('./TotalsRow').then((part) => ({ default: part.TotalsLine })));

/** The records: a table where there is room, a stack of lines where there isn't. */
export function ListTable({ section, answer, picks }: { section: ListInfo; answer: ListAnswer; picks: Picks | null }) {
  const { go, onAskWhy } = usePlace();
  const { state, open: opened, at } = useListState(section.id);
  const columns = columnsOf(section, state.columns);
  const [title, ...rest] = columns;
  const heads = useHeads(section, answer);
  const sizing = useWidths(section.id, columns);
  const hasActs = section.acts.length > 0;
  const width = columns.length + (picks ? 1 : 0) + (hasActs ? 1 : 0);
  const mayTick = useTickable(section, answer);
  // On a phone there is no room to leave empty.
  const someTick = answer.records.some((_, place) => mayTick(place));
  const under = useUnder(section.id);
  const frame = useRef<HTMLDivElement>(null);
  const isWide = useIsWide(frame, under !== null);
  return (
    <div ref={frame} data-list={section.id} className="rounded-stone border border-line bg-paper overflow-hidden">
      <div className="hidden @min-[560px]:block overflow-x-auto">
        <table
          className={`w-full text-left ${sizing.widths ? 'table-fixed [overflow-wrap:anywhere]' : ''}`}
          style={sizing.widths ? { width: sizing.whole + (picks ? 36 : 0), minWidth: '100%' } : undefined}
        >
          <thead>
            <tr className="border-b border-line">
              {picks && (
                <th scope="col" className="w-9 pl-3 py-2">
                  <PickAll
                    picks={picks}
                    ids={answer.records.flatMap(({ id }, place) => (id !== null && mayTick(place) ? id : []))}
                  />
                </th>
              )}
              {columns.map((column) => (
                <SortHead key={column.path} section={section} column={column} sizing={sizing} />
              ))}
              {hasActs && (
                <th scope="col" className="px-3 py-2">
                  <span className="sr-only">What can be done</span>
                </th>
              )}
            </tr>
          </thead>
          <tbody>
            {answer.records.map((record, place) => {
              const open = at(record.id);
              const current = record.id !== null && record.id === opened;
              return (
                <Fragment key={record.id}>
                  {heads[place] && (
                    <tr className="border-b border-line bg-sunk">
                      <th scope="rowgroup" colSpan={width} className="px-3 py-1.5 text-left text-sm">
                        {heads[place]}
                      </th>
                    </tr>
                  )}
                  <tr
                    aria-current={current || undefined}
                    className={
                      'group/record border-b border-line last:border-0 hover:bg-sunk cursor-pointer ' +
                      `${current ? 'bg-water-wash shadow-[inset_3px_0_0_var(--water)]' : ''}`
                    }
                    onClick={(event) => {
                      if (!(event.target as HTMLElement).closest('a,button,input,textarea,select,label,[aria-busy]'))
                        go(open);
                    }}
                  >
                    {picks && (
                      <td className="pl-3 py-2 align-top">
                        <PickOne
                          picks={picks}
                          id={mayTick(place) ? record.id : null}
                          called={calledOf(record, title!)}
                        />
                      </td>
                    )}
                    {columns.map((column, i) => (
                      <td
                        key={column.path}
                        className={
                          `px-3 py-2 align-top ${isAmount(column) ? 'text-right' : ''} ` +
                          `${!sizing.widths && isCode(record, column) ? 'whitespace-nowrap' : ''}`
                        }
                      >
                        {isAmount(column) && <Marks marks={marksAt(section, answer, place, column, i === 0)} />}
                        {i === 0 ? (
                          <SpotLink to={open} className="font-semibold text-ink hover:underline">
                            <ListCell plain section={section} column={column} record={record} answer={answer} />
                          </SpotLink>
                        ) : record.id !== null && section.inPlace.includes(column.path) ? (
                          <Suspense
                            fallback={
                              // As wide as it is with its pencil.
                              <span className="inline-flex items-start gap-1">
                                <span>
                                  <ListCell section={section} column={column} record={record} answer={answer} />
                                </span>
                                <span className="min-w-6" />
                              </span>
                            }
                          >
                            <ChangingCell
                              section={section.id}
                              table={section.table}
                              column={column}
                              record={{ ...record, id: record.id }}
                              called={calledOf(record, title!)}
                            >
                              <ListCell section={section} column={column} record={record} answer={answer} />
                            </ChangingCell>
                          </Suspense>
                        ) : (
                          <ListCell section={section} column={column} record={record} answer={answer} />
                        )}
                        {!isAmount(column) && <Marks marks={marksAt(section, answer, place, column, i === 0)} />}
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
                    {hasActs && (
                      <td className="px-3 py-1.5 align-top">
                        <Suspense fallback={<span className="block min-h-8" />}>
                          <RowActs {...actsAt(section, answer, place)} />
                        </Suspense>
                      </td>
                    )}
                  </tr>
                  {isWide && under?.id === record.id && (
                    <tr className="border-b border-line">
                      <td colSpan={width} className="bg-paper p-0 shadow-[inset_3px_0_0_var(--water)]">
                        {under.shown}
                      </td>
                    </tr>
                  )}
                </Fragment>
              );
            })}
          </tbody>
          {section.line.length > 0 && (
            <Suspense>
              <AddLine section={section} columns={columns} isTicked={picks !== null} />
            </Suspense>
          )}
          {section.totals.length > 0 && (
            <Suspense>
              <TotalsRow section={section} columns={columns} isTicked={picks !== null} />
            </Suspense>
          )}
        </table>
      </div>
      <ul className="@min-[560px]:hidden">
        {answer.records.map((record, place) => (
          <Fragment key={record.id}>
            {heads[place] && (
              <li className="border-b border-line bg-sunk px-3 py-1.5 text-sm font-semibold">{heads[place]}</li>
            )}
            <li className="flex items-start border-b border-line last:border-0">
              {picks && someTick && (
                <span className="flex min-h-11 min-w-11 items-center justify-center">
                  <PickOne
                    isLarge
                    picks={picks}
                    id={mayTick(place) ? record.id : null}
                    called={calledOf(record, title!)}
                  />
                </span>
              )}
              <SpotLink
                to={at(record.id)}
                aria-current={record.id === opened || undefined}
                className={
                  'grid grow gap-0.5 px-3 py-2.5 text-ink no-underline ' +
                  `${record.id === opened ? 'bg-water-wash' : ''}`
                }
              >
                <span className="font-semibold">
                  <ListCell plain section={section} column={title!} record={record} answer={answer} />
                  <Marks marks={marksOf(section, answer, place)} />
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
              {hasActs && (
                <span className="py-2 pr-3">
                  <Suspense>
                    <RowActs {...actsAt(section, answer, place)} />
                  </Suspense>
                </span>
              )}
            </li>
            {!isWide && under?.id === record.id && (
              <li className="border-b border-line shadow-[inset_3px_0_0_var(--water)]">{under.shown}</li>
            )}
          </Fragment>
        ))}
      </ul>
      {section.totals.length > 0 && (
        <div className="@min-[560px]:hidden">
          <Suspense>
            <TotalsLine section={section} />
          </Suspense>
        </div>
      )}
    </div>
  );
}

/** Beside an amount before it, so that amounts keep standing below each other. */
function Marks({ marks }: { marks: ListInfo['marks'] }) {
  return marks.map(({ id, word, colour }) => (
    <span key={id} className="mx-2">
      <MarkSign word={word} colour={colour} />
    </span>
  ));
}

const actsAt = ({ table, acts, columns }: ListInfo, answer: ListAnswer, place: number) => ({
  table,
  acts,
  record: answer.records[place]!,
  called: calledOf(answer.records[place]!, columns[0]!),
  ...(answer.acts ? { offered: answer.acts[place]! } : {}),
});

/** The marks of the record at a place of the answer. */
const marksOf = ({ marks }: ListInfo, answer: ListAnswer, place: number): ListInfo['marks'] =>
  marks.filter(({ id }) => answer.marks?.[place]?.includes(id));

/** Those that stand at one of its columns; where theirs is not shown, at the first. */
const marksAt = (section: ListInfo, answer: ListAnswer, place: number, column: ColumnInfo, isFirst: boolean) =>
  marksOf(section, answer, place).filter((mark) =>
    section.columns.some(({ path }) => path === mark.column) ? mark.column === column.path : isFirst,
  );

/** What is as short as a code stands on one line, also where there is little room and it has a hyphen in it. */
function isCode({ values }: ListAnswer['records'][number], { path }: ColumnInfo): boolean {
  const value = values[path];
  return typeof value === 'string' && /^\S{1,12}$/.test(value);
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

function SortHead({ section, column, sizing }: { section: ListInfo; column: ColumnInfo; sizing: Sizing }) {
  const { state, turn } = useListState(section.id);
  const { keep } = useAsLeft(section.id);
  const [first] = termsOf(section, state);
  const direction = first?.column !== column.path ? undefined : first.descending ? 'descending' : 'ascending';
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
      data-column={column.path}
      style={{ width: sizing.widths?.get(column.path) }}
      className={
        'relative px-3 py-2 text-sm font-semibold text-soft whitespace-nowrap ' +
        `${sizing.widths ? 'overflow-hidden text-ellipsis' : ''} ${isAmount(column) ? 'text-right' : ''}`
      }
    >
      {column.sortable ? (
        <button
          type="button"
          className="inline-flex items-center gap-1 font-semibold hover:text-ink"
          onClick={() => {
            const sort = direction === 'ascending' ? `-${column.path}` : column.path;
            keep({ ...state, sort });
            turn({ sort, after: '', before: '' });
          }}
        >
          {label}
        </button>
      ) : (
        <span className="inline-flex items-center gap-1">{label}</span>
      )}
      <Edge column={column.path} sizing={sizing} />
    </th>
  );
}

/** Before which records a new group begins, and what it is called. */
function useHeads(section: ListInfo, { records }: ListAnswer): (string | null)[] {
  const { state } = useListState(section.id);
  const { group } = section;
  if (!group || state.sort !== '') return [];
  const called = records.map((record) => {
    const value = record.values[group.path];
    if (record.masked.includes(group.path)) return `${group.label}: ${String(value ?? '')}`;
    if (isEmpty(value)) return `No ${group.label.toLowerCase()}`;
    if (group.type === 'date and time') return days.format(new Date(`${String(value).slice(0, 10)}T00:00:00Z`));
    return (
      titleIn(record, group) ?? labelOf(group.labels, String(value)) ?? cellText(group.type, value, group.identifies)
    );
  });
  return called.map((each, i) => (i > 0 && called[i - 1] === each ? null : each));
}

const days = new Intl.DateTimeFormat(undefined, {
  weekday: 'long',
  day: 'numeric',
  month: 'long',
  year: 'numeric',
  timeZone: 'UTC',
});
