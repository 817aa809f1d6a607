import { counted } from '../../../core/text/counted';
import { lazy, Suspense, useState } from 'react';
import { useSearchParams } from 'react-router';
import { findTable, plainLabel } from '../../../core/table/catalogue';
import { columnLabel, type PortalDefinition } from '../../../core/definition/definition';
import { printPath } from '../../../core/definition/path';
import { problemText } from '../../client/http';
import { seenByBase } from '../../client/bench';
import { useSeenCount } from '../../client/builder';
import { useTableInfo } from '../../client/grid';
import { pathsOf, type ColumnInfo, type ViewRecord, useTableList } from '../../client/portal';
import { RecordCell } from '../../records/RecordCell';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench, useSeenPerson, type Stage } from './bench-context';
import { useNames } from './names';
import { PersonChooser } from './PersonChooser';
import { Trying } from './Trying';
import { VersionSeen } from './VersionSeen';
import { WhyCard, type AskedCell } from './WhyCard';
import { hint } from '../../ui/hint';
import { DataTable } from '../../ui/DataTable';

const PortalSeen = lazy(() => import('./PortalSeen'));

/** The draft, or a version, as a chosen person gets it, beside what is being worked on. */
export function SeenBy({ stage }: { stage: Stage }) {
  const { object, catalogue, draft, state } = useBench();
  const person = useSeenPerson();
  const [params] = useSearchParams();
  const ruled = object?.startsWith('~') ?? false;
  const table =
    stage === 'data' || (stage === 'access' && !ruled)
      ? (object ?? params.get('table') ?? catalogue.tables[0]?.name ?? null)
      : null;
  const [asked, setAsked] = useState<{ cell: AskedCell; at: string } | null>(null);
  // A card belongs to what is looked at: elsewhere, and for somebody else, it is gone.
  const at = `${stage}/${object ?? ''}/${table ?? ''}/${person?.id ?? ''}`;
  const cell = asked?.at === at ? asked.cell : null;
  const setCell = (next: AskedCell | null) => setAsked(next && { cell: next, at });
  return (
    <aside aria-label="Seen by" className="flex min-h-0 flex-col border-l border-line bg-ground">
      <PersonChooser />
      <VersionSeen />
      <div className="flex min-h-0 flex-1 flex-col gap-3 overflow-y-auto p-3">
        {!person && <Notice kind="say">Choose a person above. This pane then shows the draft as they get it.</Notice>}
        {person && table && <TableSeen key={`${person.id}/${table}`} table={table} onWhy={setCell} />}
        {person && !table && (
          <Suspense fallback={<Skeleton />}>
            <PortalSeen
              key={person.id}
              person={person}
              page={stage === 'pages' ? pageMeant(draft, object) : null}
              onWhy={setCell}
            />
          </Suspense>
        )}
        {person && cell && (
          <WhyCard person={person} cell={cell} revision={state.revision} onClose={() => setCell(null)} />
        )}
      </div>
    </aside>
  );
}

/** The page that is worked on; of a table's sheet the first that opens records of it; of the face none above others. */
function pageMeant({ pages }: PortalDefinition, object: string | null | undefined): string | null {
  if (object?.startsWith('!')) return null;
  if (!object?.startsWith('~')) return object ?? pages[0]?.id ?? null;
  const opens = pages.find(({ sections }) =>
    sections.some((each) => 'table' in each && each.table === object.slice(1)),
  );
  return opens?.id ?? null;
}

/** One cell as the person gets it; nothing to press in it but the question why. */
function SeenCell({
  column,
  ...rest
}: {
  base: string;
  table: string;
  column: ColumnInfo | undefined;
  record: ViewRecord;
}) {
  return column ? <RecordCell column={column} {...rest} plain /> : <span className="text-soft">…</span>;
}

/** The rows of one table in the person's view, with how many of how many they are. */
function TableSeen({ table, onWhy }: { table: string; onWhy: (cell: AskedCell) => void }) {
  const { slug, state, draft, catalogue } = useBench();
  const person = useSeenPerson();
  const names = useNames();
  const base = seenByBase(slug, person!.id);
  const count = useSeenCount(slug, person!.id, table, state.revision);
  const some = (count.data?.seen ?? 0) > 0;
  // What the person may know of the columns, with what their relations are called by.
  const info = useTableInfo(base, table, some);
  // A very wide table is asked for as it is: an address has only so much room.
  const paths = pathsOf(info.data?.columns ?? []).join(',');
  const asked = paths.length > 4000 ? '' : paths;
  const rows = useTableList(base, table, { size: 8, columns: asked }, some && info.data !== undefined);
  const known = findTable(catalogue, table);
  const columns = known?.columns ?? [];
  // While an edit is taken, what is known of the columns may be older than the rows.
  const infoOf = (name: string) => info.data?.columns.find((each) => each.path === printPath([name]));
  const shown = columns.filter((column) =>
    rows.data?.records.some((record) => printPath([column.name]) in record.values),
  );
  return (
    <section className="rounded-stone border border-line bg-paper">
      <h2 className="border-b border-line px-3 py-2 text-base">{names.table(table)}</h2>
      {(count.isPending || (some && rows.isPending)) && (
        <div className="px-3">
          <Skeleton lines={5} />
        </div>
      )}
      {count.isError && <Notice kind="fault">{problemText(count.error)}</Notice>}
      {some && rows.isError && <Notice kind="fault">{problemText(rows.error)}</Notice>}
      {count.data?.seen === 0 && <p className="px-3 py-4 text-soft">{person!.name} sees nothing of this table.</p>}
      {some && rows.data && rows.data.records.length > 0 && (
        <DataTable
          label={`Rows of ${names.table(table)} that ${person!.name} sees`}
          head={shown.map((column) => columnLabel(draft, table, column.name, plainLabel))}
          small
        >
          {rows.data.records.map((record, i) => (
            <tr key={record.id ?? i}>
              {shown.map((column) => (
                <td key={column.name} className="max-w-48 p-0!">
                  <button
                    type="button"
                    {...hint('Why?', true)}
                    disabled={!record.id}
                    className="block w-full truncate px-3 py-1.5 text-left hover:bg-sunk"
                    onClick={() => onWhy({ table, id: record.id!, column: column.name })}
                  >
                    {printPath([column.name]) in record.values ? (
                      <SeenCell base={base} table={table} column={infoOf(column.name)} record={record} />
                    ) : (
                      <span className="text-soft italic">hidden</span>
                    )}
                  </button>
                </td>
              ))}
            </tr>
          ))}
        </DataTable>
      )}
      {count.data && (
        <p className="border-t border-line px-3 py-2 text-sm text-soft" data-testid="seen-count">
          <strong className="text-ink">{count.data.seen.toLocaleString()}</strong>
          {` of ${counted(count.data.total, 'row')} of ${names.tableInText(table)} `}
          {count.data.seen === 1 ? 'is' : 'are'} shown to {person!.name}
        </p>
      )}
      {count.data && (
        <Trying
          key={table}
          table={table}
          records={rows.data?.records ?? []}
          onWhy={(id) => onWhy({ table, id, column: null })}
        />
      )}
    </section>
  );
}
