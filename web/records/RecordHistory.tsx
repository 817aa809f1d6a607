import { useState } from 'react';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { ServerProblem } from '../client/http';
import { useHistory, type HistoryLine } from '../client/history';
import { Button } from '../ui/Button';
import { Skeleton } from '../ui/Notice';
import { Unanswered } from './Answered';
import { Cell } from './Cell';
import { minuteText } from './member-words';

/** What changed in a record, from the newest to the oldest: asked for when somebody wants to know. */
export default function RecordHistory({
  base,
  table,
  id,
  under,
}: {
  base: string;
  table: string;
  id: string;
  under: 'h1' | 'h2';
}) {
  const Heading = under === 'h1' ? 'h2' : 'h3';
  const [isOpen, setOpen] = useState(false);
  const answer = useHistory(base, table, id, isOpen);
  const lines = answer.data?.pages.flatMap((page) => page.lines) ?? [];
  // By the role through which they have this record nothing of its past is theirs to read.
  const isClosed = answer.error instanceof ServerProblem && answer.error.status === 404;
  const Chevron = isOpen ? ChevronDown : ChevronRight;
  return (
    <section aria-label="What changed" className="grid gap-3 border-t border-line pt-3">
      <Heading className="text-base">
        <button
          type="button"
          aria-expanded={isOpen}
          className="no-print -ml-1 inline-flex items-center gap-1 hover:underline"
          onClick={() => setOpen(!isOpen)}
        >
          <Chevron size={15} aria-hidden /> What changed
        </button>
      </Heading>
      {isOpen && (
        <>
          {!isClosed && <Unanswered answer={answer} />}
          {answer.isPending && !answer.isError && <Skeleton lines={3} />}
          {(isClosed || (answer.data && lines.length === 0)) && (
            <p className="text-soft">Nothing that you may read has changed since this is kept.</p>
          )}
          {lines.length > 0 && (
            <ol className="grid gap-2.5">
              {lines.map((line, i) => (
                <li key={`${line.at} ${i}`} className="border-l-2 border-line-strong pl-3">
                  <Line line={line} />
                </li>
              ))}
            </ol>
          )}
          {answer.hasNextPage && (
            <Button
              small
              className="justify-self-start"
              disabled={answer.isFetchingNextPage}
              onClick={() => void answer.fetchNextPage()}
            >
              Show earlier ones
            </Button>
          )}
        </>
      )}
    </section>
  );
}

const did = { made: 'added it', changed: 'changed it', deleted: 'deleted it' };

function Line({ line }: { line: HistoryLine }) {
  return (
    <>
      <p className="text-sm">
        <span className="font-semibold">{whoDid(line)}</span> {did[line.made]}
        {line.through !== null && <> by “{line.through}”</>}
        {line.brought && ' with a file'} <span className="text-soft">· {minuteText(line.at)}</span>
      </p>
      {line.unsure && <p className="text-sm text-soft">It is not known whether this was kept.</p>}
      {line.erased && <p className="text-sm text-soft">What stood there was erased.</p>}
      {line.changes.length > 0 && (
        <dl className="grid grid-cols-[minmax(6rem,auto)_1fr] gap-x-3 gap-y-0.5">
          {line.changes.map((change) => (
            <Change key={change.column.path} made={line.made} change={change} />
          ))}
        </dl>
      )}
    </>
  );
}

function whoDid({ mine, name, role, by }: HistoryLine): string {
  if (mine) return 'You';
  if (name !== null) return name;
  if (by === 'builder') return 'Whoever keeps the portal';
  if (by === 'service') return role ?? 'A service';
  return by === 'visitor' ? 'A visitor' : 'Somebody';
}

type ChangeTold = HistoryLine['changes'][number];

function Change({ made, change: { column, was, now } }: { made: HistoryLine['made']; change: ChangeTold }) {
  return (
    <>
      <dt className="text-sm text-soft">{column.label}</dt>
      <dd className="min-w-0 text-sm break-words">
        {made !== 'made' && (
          <>
            <Side column={column} told={was} />
            {made === 'changed' && (
              <span className="mx-1.5 text-soft">
                <span aria-hidden>→</span>
                <span className="sr-only"> became </span>
              </span>
            )}
          </>
        )}
        {made !== 'deleted' && <Side column={column} told={now} />}
      </dd>
    </>
  );
}

/** A value as it stood there; what is not told says so. */
function Side({ column, told }: { column: ChangeTold['column']; told: ChangeTold['was'] }) {
  if (!told) return <em className="text-soft">not yours to read</em>;
  if (told.title !== undefined) return <>{told.title}</>;
  if (told.value === null || told.value === '') return <span className="text-soft">empty</span>;
  if (column.kind === 'file') return <>a file</>;
  return <Cell type={column.type} value={told.value} masked={false} notes={column} plain />;
}
