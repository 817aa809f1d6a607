import { useEffect, useRef } from 'react';
import { ArrowLeft, ChevronDown, ChevronUp, X } from 'lucide-react';
import { ServerProblem, problemText } from '../client/http';
import { pathsOf, useRecord, type ColumnInfo } from '../client/portal';
import { type LinkedTold } from '../client/related';
import type { WayToOpen } from '../../core/definition/section-kinds';
import type { BesideSheet } from '../../core/definition/hung';
import { Hanging } from '../records/Hanging';
import type { Grouped } from '../records/InGroups';
import { LinkedLists } from '../records/LinkedLists';
import { Button, buttonLook } from '../ui/Button';
import { cellText } from '../records/Cell';
import { titleIn } from '../records/RecordCell';
import { Notice, Skeleton } from '../ui/Notice';
import { RecordForm } from '../records/RecordForm';
import { SpotLink, usePlace } from '../place/place';

/** Where an open record stands: beside its list, under its line, over the page, or alone. */
export type WayOpened = 'beside' | WayToOpen;

/** Over a page its own frame is closed. */
const backShown = { beside: '@min-[1000px]:hidden', page: '', under: 'hidden', over: 'hidden' };
const closeShown = { beside: 'hidden @min-[1000px]:block', page: 'hidden', under: '', over: 'hidden' };

/** One record: beside its list where there is room, else in its place. */
export function RecordPane({
  table,
  sheet,
  id,
  grouped,
  linked = [],
  hangs = [],
  doubts = false,
  deletes = false,
  beside = { before: null, after: null },
  how = 'beside',
}: {
  table: string;
  sheet: ColumnInfo[];
  id: string;
  grouped?: Grouped;
  linked?: LinkedTold[];
  /** What stands beside it. */
  hangs?: readonly BesideSheet[];
  /** Whether it can be said beside its facts that one is wrong. */
  doubts?: boolean;
  /** Whether deleting is offered where it is listed. */
  deletes?: boolean;
  /** The records before and after it in its list. */
  beside?: { before: string | null; after: string | null };
  /** Where it stands. */
  how?: WayOpened;
}) {
  const { base, spot } = usePlace();
  const answer = useRecord(base, table, id, pathsOf(sheet));
  const heading = useRef<HTMLHeadingElement>(null);
  const ready = answer.data !== undefined;
  useEffect(() => {
    if (ready) heading.current?.focus({ preventScroll: true });
  }, [id, ready]);

  const first = sheet[0];
  const title =
    answer.data && first
      ? titleIn(answer.data.record, first) ||
        cellText(first.type, answer.data.record.values[first.path], first.identifies) ||
        'Record'
      : 'Record';
  const gone = answer.error instanceof ServerProblem && answer.error.status === 404;
  return (
    <section aria-label="Record" className="grid content-start gap-4 p-4 @min-[560px]:p-5">
      <div className="flex items-start gap-3">
        <span className={backShown[how]}>
          <SpotLink to={{ ...spot, record: null }} className={`no-print ${buttonLook('plain', true)}`}>
            <ArrowLeft size={15} aria-hidden /> List
          </SpotLink>
        </span>
        <h2 ref={heading} tabIndex={-1} className="flex-1 min-w-0 break-words outline-none pt-0.5">
          {gone ? 'Not found' : title}
        </h2>
        {(beside.before !== null || beside.after !== null) && (
          <span className="no-print flex gap-1">
            <Beside id={beside.before} label="The one before">
              <ChevronUp size={15} aria-hidden />
            </Beside>
            <Beside id={beside.after} label="The next one">
              <ChevronDown size={15} aria-hidden />
            </Beside>
          </span>
        )}
        <span className={closeShown[how]}>
          <SpotLink to={{ ...spot, record: null }} className={`no-print ${buttonLook('plain', true)}`}>
            <X size={15} aria-hidden /> Close
          </SpotLink>
        </span>
      </div>
      {sheet.length === 0 && <Notice kind="say">Nothing of this record is shown to you.</Notice>}
      {answer.isPending && sheet.length > 0 && <Skeleton lines={7} />}
      {answer.isError && (
        <Notice
          kind="fault"
          action={
            gone ? null : (
              <Button small onClick={() => void answer.refetch()}>
                Try again
              </Button>
            )
          }
        >
          {problemText(answer.error)}
        </Notice>
      )}
      {answer.data && (
        <RecordForm
          key={id}
          table={table}
          id={id}
          columns={sheet}
          record={answer.data.record}
          away={answer.data.away ?? []}
          title={title}
          deletes={deletes}
          grouped={grouped}
          doubts={doubts}
          under="h2"
        />
      )}
      {answer.data && <LinkedLists table={table} id={id} linked={linked} under="h2" />}
      {answer.data && <Hanging hangs={hangs} table={table} id={id} under="h2" />}
    </section>
  );
}

/** A way to a record beside this one in its list; without one it keeps its place. */
function Beside({ id, label, children }: { id: string | null; label: string; children: React.ReactNode }) {
  const { spot } = usePlace();
  const look = buttonLook('plain', true);
  if (id === null)
    return (
      <span className={`${look} opacity-40`} aria-hidden>
        {children}
      </span>
    );
  return (
    <SpotLink to={{ ...spot, record: { section: spot.record!.section, id } }} aria-label={label} className={look}>
      {children}
    </SpotLink>
  );
}
