import { pathsOf, useRecord, useSectionList, type ColumnInfo } from '../../web/client/portal';
import { plainList, usePlace } from '../../web/place/place';
import { Answered, NothingOf } from '../../web/records/Answered';
import { Hanging } from '../../web/records/Hanging';
import { LinkedLists } from '../../web/records/LinkedLists';
import { RecordForm } from '../../web/records/RecordForm';
import { Notice } from '../../web/ui/Notice';
import type { ShowProps } from '../show';

/** One record in the page itself, with what may be changed of it. */
export default function RecordShow({ section }: ShowProps<'record'>) {
  const { base, spot } = usePlace();
  const found = useSectionList(base, spot.page, section.id, { ...plainList, size: 1 });
  const noun = section.label.toLowerCase();
  if (section.away || section.sheet.length === 0) return <NothingOf noun={noun} away={section.away === true} />;
  return (
    <Answered answer={found} lines={6}>
      {({ records: [first] }) =>
        !first || first.id === null ? (
          <Notice kind="say">There is nothing here for you yet.</Notice>
        ) : (
          <div className="max-w-3xl rounded-stone border border-line bg-paper p-4">
            <RecordHere key={first.id} table={section.table} sheet={section.sheet} id={first.id} noun={noun} />
            <div className="mt-4 grid gap-4 empty:hidden">
              <LinkedLists
                table={section.table}
                id={first.id}
                linked={section.linked}
                under={section.title === undefined ? 'h1' : 'h2'}
              />
              <Hanging
                hangs={section.hangs}
                table={section.table}
                id={first.id}
                under={section.title === undefined ? 'h1' : 'h2'}
              />
            </div>
          </div>
        )
      }
    </Answered>
  );
}

function RecordHere({ table, sheet, id, noun }: { table: string; sheet: ColumnInfo[]; id: string; noun: string }) {
  const { base } = usePlace();
  const answer = useRecord(base, table, id, pathsOf(sheet));
  return (
    <Answered answer={answer} lines={6}>
      {({ record, away = [] }) => (
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
      )}
    </Answered>
  );
}
