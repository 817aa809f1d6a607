import { counted } from '../../../core/text/counted';
import { useMemo, useState } from 'react';
import { useSearchParams } from 'react-router';
import { findTable, isIdentifier, plainLabel } from '../../../core/table/catalogue';
import { columnLabel, type PortalDefinition } from '../../../core/definition/definition';
import { problemText } from '../../client/http';
import { seenByBase } from '../../client/bench';
import { useSeenCount } from '../../client/builder';
import { useMe, useTableList } from '../../client/portal';
import { Button } from '../../ui/Button';
import { Cell } from '../../ui/Cell';
import { Notice, Skeleton } from '../../ui/Notice';
import { pageSpot, PlaceProvider, type Place, type Spot } from '../../place/place';
import { PortalPages } from '../../portal/PortalPages';
import { useBench, type BenchPerson, type Stage } from './bench-context';
import { PersonChooser } from './PersonChooser';
import { Trying } from './Trying';
import { WhyCard, type AskedCell } from './WhyCard';

/** The draft as a chosen person gets it, beside what is being worked on. */
export function SeenBy({ stage }: { stage: Stage }) {
  const { person, object, catalogue, draft, state } = useBench();
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
      <div className="flex min-h-0 flex-1 flex-col gap-3 overflow-y-auto p-3">
        {!person && <Notice kind="say">Choose a person above. This pane then shows the draft as they get it.</Notice>}
        {person && table && <TableSeen key={`${person.id}/${table}`} table={table} onWhy={setCell} />}
        {person && !table && (
          <PortalSeen
            key={person.id}
            person={person}
            page={stage === 'pages' ? pageMeant(draft, object) : null}
            onWhy={setCell}
          />
        )}
        {person && cell && (
          <WhyCard person={person} cell={cell} revision={state.revision} onClose={() => setCell(null)} />
        )}
      </div>
    </aside>
  );
}

/** The page that is worked on; of a table's sheet the first that opens records of the table. */
function pageMeant({ pages }: PortalDefinition, object: string | null | undefined): string | null {
  if (!object?.startsWith('~')) return object ?? pages[0]?.id ?? null;
  const opens = pages.find(({ sections }) =>
    sections.some((each) => 'table' in each && each.table === object.slice(1)),
  );
  return opens?.id ?? null;
}

/** The rows of one table in the person's view, with how many of how many they are. */
function TableSeen({ table, onWhy }: { table: string; onWhy: (cell: AskedCell) => void }) {
  const { slug, person, state, draft, catalogue } = useBench();
  const base = seenByBase(slug, person!.id);
  const count = useSeenCount(slug, person!.id, table, state.revision);
  const some = (count.data?.seen ?? 0) > 0;
  const rows = useTableList(base, table, { size: 8 }, some);
  const known = findTable(catalogue, table);
  const columns = known?.columns ?? [];
  const shown = columns.filter((column) => rows.data?.records.some((record) => column.name in record.values));
  return (
    <section className="rounded-stone border border-line bg-paper">
      <h2 className="border-b border-line px-3 py-2 text-base">{draft.tables[table]?.label ?? table}</h2>
      {(count.isPending || (some && rows.isPending)) && (
        <div className="px-3">
          <Skeleton lines={5} />
        </div>
      )}
      {count.isError && <Notice kind="fault">{problemText(count.error)}</Notice>}
      {some && rows.isError && <Notice kind="fault">{problemText(rows.error)}</Notice>}
      {count.data?.seen === 0 && <p className="px-3 py-4 text-soft">{person!.name} sees nothing of this table.</p>}
      {some && rows.data && rows.data.records.length > 0 && (
        <div
          className="overflow-x-auto"
          tabIndex={0}
          role="region"
          aria-label={`Rows of ${table} that ${person!.name} sees`}
        >
          <table className="text-left text-sm">
            <thead>
              <tr className="border-b border-line">
                {shown.map((column) => (
                  <th key={column.name} scope="col" className="px-3 py-1.5 font-semibold text-soft whitespace-nowrap">
                    {columnLabel(draft, table, column.name, plainLabel)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.data.records.map((record, i) => (
                <tr key={record.id ?? i} className="border-b border-line last:border-0">
                  {shown.map((column) => (
                    <td key={column.name} className="max-w-48 p-0">
                      <button
                        type="button"
                        title="Why?"
                        disabled={!record.id}
                        className="block w-full truncate px-3 py-1.5 text-left hover:bg-sunk"
                        onClick={() => onWhy({ table, id: record.id!, column: column.name })}
                      >
                        {column.name in record.values ? (
                          <Cell
                            type={column.type}
                            notes={{ identifies: isIdentifier(known!, column) }}
                            value={record.values[column.name]}
                            masked={record.masked.includes(column.name)}
                          />
                        ) : (
                          <span className="text-soft italic">hidden</span>
                        )}
                      </button>
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {count.data && (
        <p className="border-t border-line px-3 py-2 text-sm text-soft" data-testid="seen-count">
          <strong className="text-ink">{count.data.seen.toLocaleString()}</strong>
          {` of ${counted(count.data.total, 'row')} of ${table} `}
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

/** The portal's pages as the person gets them, moved about in without leaving the bench. */
export function PortalSeen({
  person,
  page,
  onWhy,
}: {
  person: BenchPerson;
  page: string | null;
  onWhy: (cell: AskedCell) => void;
}) {
  const { slug, state } = useBench();
  const base = seenByBase(slug, person.id);
  const me = useMe(base);
  const [spot, setSpot] = useState<Spot>(pageSpot(page ?? ''));
  const [asked, setAsked] = useState(page);
  if (page !== asked) {
    setAsked(page);
    setSpot(pageSpot(page ?? ''));
  }
  const first = me.data?.pages[0]?.id ?? '';
  const here = useMemo(() => (spot.page === '' ? { ...spot, page: first } : spot), [spot, first]);
  const place = useMemo(
    (): Place => ({
      spot: here,
      go: setSpot,
      href: () => '#',
      base,
      seenBy: true,
      setUnsaved: () => undefined,
      onAskWhy: (table, id, column) => onWhy({ table, id, column }),
    }),
    [here, base, onWhy],
  );
  const table = me.data?.pages
    .find((each) => each.id === here.page)
    ?.sections.find((each) => each.kind === 'list')?.table;
  const count = useSeenCount(slug, person.id, table ?? '', state.revision);
  if (me.isPending) return <Skeleton />;
  if (me.isError)
    return (
      <Notice
        kind="fault"
        action={
          <Button small onClick={() => void me.refetch()}>
            Try again
          </Button>
        }
      >
        {problemText(me.error)}
      </Notice>
    );
  const barred = page !== null && !me.data.pages.some((each) => each.id === page);
  return (
    <section className="flex min-h-100 flex-1 flex-col rounded-stone border border-line">
      <div className="flex min-h-0 flex-1 flex-col overflow-y-auto">
        {barred && here.page === page ? (
          <div className="p-3">
            <Notice
              kind="say"
              action={
                me.data.pages[0] && (
                  <Button small onClick={() => setSpot(pageSpot(first))}>
                    Show their pages
                  </Button>
                )
              }
            >
              {person.name} doesn't get this page.
            </Notice>
          </div>
        ) : (
          <PlaceProvider value={place}>
            <PortalPages within me={me.data} corner={<span className="text-sm">{me.data.member.name}</span>} />
          </PlaceProvider>
        )}
      </div>
      {table && count.data && !barred && (
        <p className="border-t border-line bg-paper px-3 py-2 text-sm text-soft" data-testid="seen-count">
          <strong className="text-ink">{count.data.seen.toLocaleString()}</strong>
          {` of ${counted(count.data.total, 'row')} of ${table} `}
          {count.data.seen === 1 ? 'is' : 'are'} shown to {person.name}
        </p>
      )}
    </section>
  );
}
