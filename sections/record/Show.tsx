import { pathsOf, useRecord, useSectionList } from '../../web/client/portal';
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
  const under = section.title === undefined ? 'h1' : 'h2';
  if (section.away || section.sheet.length === 0) return <NothingOf noun={noun} away={section.away === true} />;
  return (
    <Answered answer={found} lines={6}>
      {({ records: [first] }) =>
        !first || first.id === null ? (
          <Notice kind="say">There is nothing here for you yet.</Notice>
        ) : (
          <div className="max-w-3xl rounded-stone border border-line bg-paper p-4">
            <RecordHere key={first.id} section={section} id={first.id} under={under} />
            <div className="mt-4 grid gap-4 empty:hidden">
              <LinkedLists table={section.table} id={first.id} linked={section.linked} under={under} />
              <Hanging hangs={section.hangs} table={section.table} id={first.id} under={under} />
            </div>
          </div>
        )
      }
    </Answered>
  );
}

interface HereProps extends ShowProps<'record'> {
  id: string;
  under: 'h1' | 'h2';
}

function RecordHere({ section: { table, sheet, label, ...grouped }, id, under }: HereProps) {
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
          title={label.toLowerCase()}
          deletes={false}
          untitled
          grouped={grouped}
          doubts={grouped.doubts}
          under={under}
        />
      )}
    </Answered>
  );
}
