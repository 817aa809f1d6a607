import { useEffect, useRef } from 'react';
import { ArrowLeft, X } from 'lucide-react';
import { ServerProblem, problemText } from '../client/http';
import { useRecord, type ColumnInfo } from '../client/portal';
import { Button, buttonLook } from '../ui/Button';
import { cellText } from '../records/Cell';
import { pathsToShow, titleIn } from '../records/RecordCell';
import { Notice, Skeleton } from '../ui/Notice';
import { RecordForm } from '../records/RecordForm';
import { SpotLink, usePlace } from '../place/place';

/** One record: beside its list where there is room, else in its place. */
export function RecordPane({
  table,
  sheet,
  id,
  deletes = false,
}: {
  table: string;
  sheet: ColumnInfo[];
  id: string;
  /** Whether deleting is offered where it is listed. */
  deletes?: boolean;
}) {
  const { base, spot } = usePlace();
  const answer = useRecord(base, table, id, pathsToShow(sheet));
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
        <span className="@min-[1000px]:hidden">
          <SpotLink to={{ ...spot, record: null }} className={`no-print ${buttonLook('plain', true)}`}>
            <ArrowLeft size={15} aria-hidden /> List
          </SpotLink>
        </span>
        <h2 ref={heading} tabIndex={-1} className="flex-1 min-w-0 break-words outline-none pt-0.5">
          {gone ? 'Not found' : title}
        </h2>
        <span className="hidden @min-[1000px]:block">
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
        />
      )}
    </section>
  );
}
