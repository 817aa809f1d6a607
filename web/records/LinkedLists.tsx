import { lazy, Suspense, useState } from 'react';
import { type LinkedTold } from '../client/related';
import type { ListAnswer } from '../client/portal';
import { useRelated, useRelatedFigures } from '../client/related';
import { usePlace } from '../place/place';
import { Button } from '../ui/Button';
import { DataTable } from '../ui/DataTable';
import { Dialog } from '../ui/Dialog';
import { Skeleton } from '../ui/Notice';
import { Answered } from './Answered';
import { isAmount } from './Cell';
import { measureWords, shownNumber } from './numbers';
import { RecordCell } from './RecordCell';
import { RecordLink } from './record-links';

const NewLinked = lazy(() => import('./NewForm').then(({ NewForm }) => ({ default: NewForm })));

/** Under a record: the records that point at it, each leading to its own page. */
export function LinkedLists({
  table,
  id,
  linked,
  under,
}: {
  table: string;
  id: string;
  linked: LinkedTold[];
  /** The heading that stands over them. */
  under: 'h1' | 'h2';
}) {
  return linked.map((each) => (
    <Linked key={`${each.table} ${each.relation}`} table={table} id={id} linked={each} under={under} />
  ));
}

function Linked({ table, id, linked, under }: { table: string; id: string; linked: LinkedTold; under: 'h1' | 'h2' }) {
  const Heading = under === 'h1' ? 'h2' : 'h3';
  const { base, seenBy } = usePlace();
  const [at, setAt] = useState<{ after: string; before: string }>({ after: '', before: '' });
  const [adding, setAdding] = useState(false);
  const answer = useRelated(base, table, id, linked, at);
  const { adds } = linked;
  return (
    <section aria-label={linked.label} className="grid gap-2 border-t border-line pt-3">
      <div className="flex items-center gap-2">
        <Heading className="mr-auto text-base">
          {linked.label}
          {answer.data && <span className="ml-2 font-normal text-soft">{answer.data.total.toLocaleString()}</span>}
        </Heading>
        {adds !== null && (
          <Dialog
            title={`New in ${linked.label}`}
            open={adding}
            onOpenChange={setAdding}
            trigger={
              <Button small disabled={seenBy}>
                Add
              </Button>
            }
          >
            <Suspense fallback={<Skeleton lines={4} />}>
              <NewLinked
                table={linked.table}
                sheet={linked.columns}
                given={{ [adds]: decodeURIComponent(id) }}
                onMade={() => setAdding(false)}
              />
            </Suspense>
          </Dialog>
        )}
      </div>
      {linked.figures.length > 0 && <LinkedFigures id={id} linked={linked} />}
      <Answered answer={answer} lines={3}>
        {(found) => (
          <>
            {found.total === 0 && <p className="text-soft">There are none.</p>}
            {found.total > 0 && linked.asCards && <LinkedCards linked={linked} records={found.records} />}
            {found.total > 0 && !linked.asCards && (
              <DataTable
                label={`${linked.label}, linked`}
                small
                head={linked.columns.map((column) => (
                  <span key={column.path} className={isAmount(column) ? 'block text-right' : ''}>
                    {column.label}
                  </span>
                ))}
              >
                {found.records.map((record) => (
                  <tr key={record.id}>
                    {linked.columns.map((column, i) => (
                      <td key={column.path} className={isAmount(column) ? 'text-right' : ''}>
                        {i === 0 && record.id !== null ? (
                          <RecordLink table={linked.table} id={record.id}>
                            <RecordCell base={base} table={linked.table} column={column} record={record} plain />
                          </RecordLink>
                        ) : (
                          <RecordCell base={base} table={linked.table} column={column} record={record} />
                        )}
                      </td>
                    ))}
                  </tr>
                ))}
              </DataTable>
            )}
            {(found.next || found.previous) && (
              <div className="flex gap-2">
                <Button small disabled={!found.previous} onClick={() => setAt({ after: '', before: found.previous! })}>
                  Back
                </Button>
                <Button small disabled={!found.next} onClick={() => setAt({ after: found.next!, before: '' })}>
                  Further
                </Button>
              </div>
            )}
          </>
        )}
      </Answered>
    </section>
  );
}

/** Numbers over all of them, whichever are listed now. */
function LinkedFigures({ id, linked }: { id: string; linked: LinkedTold }) {
  const { base } = usePlace();
  const { label, figures } = linked;
  const answer = useRelatedFigures(base, id, linked);
  // The list below says what is wrong.
  if (answer.isError) return null;
  const values = answer.data?.groups[0]?.values ?? [];
  return (
    <dl className="flex flex-wrap gap-x-6 gap-y-1">
      {figures.map((figure, i) => (
        <div key={`${figure.measure} ${figure.column.path}`}>
          <dt className="text-sm text-soft">{measureWords(figure.measure, figure.column)}</dt>
          <dd className="font-semibold">{answer.isPending ? '…' : shownNumber({ ...figure, label }, values[i])}</dd>
        </div>
      ))}
    </dl>
  );
}

function LinkedCards({ linked, records }: { linked: LinkedTold; records: ListAnswer['records'] }) {
  const { base } = usePlace();
  const [title, ...values] = linked.columns;
  return (
    <ul className="grid gap-2 @min-[560px]:grid-cols-2">
      {records.map((record) => (
        <li key={record.id} className="grid content-start gap-0.5 rounded-stone border border-line px-3 py-2">
          <span className="font-semibold">
            {record.id === null ? (
              <RecordCell base={base} table={linked.table} column={title!} record={record} />
            ) : (
              <RecordLink table={linked.table} id={record.id}>
                <RecordCell base={base} table={linked.table} column={title!} record={record} plain />
              </RecordLink>
            )}
          </span>
          {values.map((column) => (
            <span key={column.path} className="flex flex-wrap gap-x-2 text-sm">
              <span className="text-soft">{column.label}</span>
              <RecordCell base={base} table={linked.table} column={column} record={record} plain />
            </span>
          ))}
        </li>
      ))}
    </ul>
  );
}
