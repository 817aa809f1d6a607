import { problemText } from '../../web/client/http';
import { pathsOf, useRecord, useSectionList, type ColumnInfo } from '../../web/client/portal';
import { plainList, usePlace } from '../../web/place/place';
import { LinkedLists } from '../../web/records/LinkedLists';
import { RecordForm } from '../../web/records/RecordForm';
import { Button } from '../../web/ui/Button';
import { Notice, Skeleton } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

/** One record in the page itself, with what may be changed of it. */
export default function RecordShow({ section }: ShowProps<'record'>) {
  const { base, spot } = usePlace();
  const found = useSectionList(base, spot.page, section.id, { ...plainList, size: 1 });
  const noun = section.label.toLowerCase();
  if (section.away)
    return (
      <Notice kind="warn">The place that holds {noun} can&apos;t be reached at the moment. Try again later.</Notice>
    );
  if (section.sheet.length === 0) return <Notice kind="say">Nothing of {noun} is open to you here.</Notice>;
  if (found.isPending) return <Skeleton lines={6} />;
  if (found.isError)
    return (
      <Notice
        kind="fault"
        action={
          <Button small onClick={() => void found.refetch()}>
            Try again
          </Button>
        }
      >
        {problemText(found.error)}
      </Notice>
    );
  const id = found.data.records[0]?.id;
  if (id === undefined || id === null) return <Notice kind="say">There is nothing here for you yet.</Notice>;
  return (
    <div className="max-w-3xl rounded-stone border border-line bg-paper p-4">
      <RecordHere key={id} table={section.table} sheet={section.sheet} id={id} noun={noun} />
      <div className="mt-4 grid gap-4 empty:hidden">
        <LinkedLists
          table={section.table}
          id={id}
          linked={section.linked}
          under={section.title === undefined ? 'h1' : 'h2'}
        />
      </div>
    </div>
  );
}

function RecordHere({ table, sheet, id, noun }: { table: string; sheet: ColumnInfo[]; id: string; noun: string }) {
  const { base } = usePlace();
  const answer = useRecord(base, table, id, pathsOf(sheet));
  if (answer.isPending) return <Skeleton lines={6} />;
  if (answer.isError) return <Notice kind="fault">{problemText(answer.error)}</Notice>;
  const { record, away = [] } = answer.data;
  return (
    <RecordForm
      table={table}
      id={id}
      columns={sheet}
      record={record}
      away={away}
      title={noun}
      deletes={false}
      untitled
    />
  );
}
