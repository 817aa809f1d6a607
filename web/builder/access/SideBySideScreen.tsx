import { useState } from 'react';
import { columnLabel } from '../../../core/definition/definition';
import { counted } from '../../../core/text/counted';
import { findColumn, findTable, isIdentifier, plainLabel, type Table } from '../../../core/table/catalogue';
import { useSideBySide, type SideBySide } from '../../client/access';
import { problemText } from '../../client/http';
import { Cell } from '../../records/Cell';
import { Notice, Skeleton } from '../../ui/Notice';
import { useAddress } from '../bench/address';
import { useBench, type BenchPerson } from '../bench/bench-context';
import type { PersonId } from '../../client/builder';
import { PersonPicker } from '../bench/PersonChooser';
import PortalSeen from '../bench/PortalSeen';
import { WhyCard, type AskedCell } from '../bench/WhyCard';
import { Select } from '../../ui/Select';
import { DataTable } from '../../ui/DataTable';
import { useNames } from '../bench/names';

/** One table, or one page, as the person in Seen by and a second one get it. */
export function SideBySideScreen() {
  const { slug, catalogue, draft, person, state } = useBench();
  const called = useNames();
  const [params, change] = useAddress();
  // Both stay in the address: a link shows the same two.
  const second = params.get('second');
  const other: BenchPerson | null =
    second === null
      ? null
      : { id: /^\d+$/.test(second) ? Number(second) : second, name: params.get('called') ?? second };
  const setOther = (next: BenchPerson) =>
    change((address) => {
      address.set('second', String(next.id));
      address.set('called', next.name);
    });
  const [only, setOnly] = useState(false);
  const [cell, setCell] = useState<AskedCell | null>(null);
  const [asked, setAsked] = useState<PersonId | null>(null);
  const page = draft.pages.find((each) => each.id === params.get('page'));
  const name = params.get('table') ?? Object.keys(draft.access)[0] ?? catalogue.tables[0]?.name ?? '';
  const pair = useSideBySide(
    slug,
    name,
    person?.id ?? 0,
    person && !page ? (other?.id ?? null) : null,
    only,
    state.revision,
  );
  const table = findTable(catalogue, name);
  if (!person) return <Notice kind="say">Choose the first person in Seen by, on the right.</Notice>;
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <Select
          aria-label="Table or page"
          className="w-auto"
          value={page ? `page ${page.id}` : `table ${name}`}
          onPick={(picked) => {
            const [kind, ...rest] = picked.split(' ');
            setCell(null);
            change((address) => {
              address.delete('page');
              address.delete('table');
              address.set(kind!, rest.join(' '));
            });
          }}
        >
          <optgroup label="the table">
            {catalogue.tables.map((each) => (
              <option key={each.name} value={`table ${each.name}`}>
                {called.table(each.name)}
              </option>
            ))}
          </optgroup>
          <optgroup label="the page">
            {draft.pages.map((each) => (
              <option key={each.id} value={`page ${each.id}`}>
                {each.title}
              </option>
            ))}
          </optgroup>
        </Select>
        <strong>{person.name}</strong>
        <span className="text-soft">beside</span>
        <PersonPicker label="Second person" person={other} onChange={setOther} />
        {!page && (
          <label className="inline-flex items-center gap-2">
            <input type="checkbox" checked={only} onChange={(event) => setOnly(event.target.checked)} /> only rows that
            one of them has
          </label>
        )}
      </div>
      {!other && <p className="text-soft">Choose the second person.</p>}
      {other && page && (
        <div className="grid grid-cols-2 gap-3">
          {[person, other].map((each) => (
            <div key={each.id} className="grid min-w-0 content-start gap-1">
              <strong>{each.name}</strong>
              <PortalSeen
                person={each}
                page={page.id}
                onWhy={(next) => {
                  setCell(next);
                  setAsked(each.id);
                }}
              />
              {cell && asked === each.id && (
                <WhyCard person={each} cell={cell} revision={state.revision} onClose={() => setAsked(null)} />
              )}
            </div>
          ))}
        </div>
      )}
      {other && !page && pair.isPending && <Skeleton />}
      {pair.isError && <Notice kind="fault">{problemText(pair.error)}</Notice>}
      {other && !page && table && pair.data && (
        <Pair
          data={pair.data}
          names={[person.name, other.name]}
          label={(column) => columnLabel(draft, table.name, column, plainLabel)}
          table={table}
        />
      )}
    </>
  );
}

function Pair({
  data,
  names,
  label,
  table,
}: {
  data: SideBySide;
  names: [string, string];
  label: (column: string) => string;
  table: Table;
}) {
  const known = (name: string) => findColumn(table, name);
  const { first, second, both } = data.counts;
  return (
    <>
      <p data-testid="pair-counts">
        <strong>{names[0]}</strong> sees {counted(first, 'row')}, <strong>{names[1]}</strong>
        {` ${second.toLocaleString()}; ${both.toLocaleString()} ${both === 1 ? 'is' : 'are'} the same, `}
        {`${(first - both).toLocaleString()} only ${names[0]} has, `}
        {`${(second - both).toLocaleString()} only ${names[1]}.`}
      </p>
      {data.records.length === 0 && <p className="text-soft">There is no such row.</p>}
      {data.records.length > 0 && (
        <DataTable label="Rows of both" head={['Record', 'Seen by', ...data.columns.map(label)]} small>
          {data.records.map((record, i) =>
            [0, 1].map((side) => {
              const seen = record.seen[side as 0 | 1];
              return (
                <tr key={`${record.id ?? i}/${side}`} className={side === 1 ? 'border-b border-line-strong' : ''}>
                  <td className="font-semibold">{side === 0 ? decodeURIComponent(record.id ?? '') : ''}</td>
                  <td className="whitespace-nowrap">
                    {names[side]}
                    {!seen && <em className="text-iron"> not at all</em>}
                  </td>
                  {data.columns.map((column) => {
                    const differs = record.differing.includes(column);
                    return (
                      <td
                        key={column}
                        className={`max-w-48 truncate py-0.5 pr-3 ${differs ? 'bg-ochre-wash font-semibold' : ''}`}
                      >
                        {seen &&
                          (column in seen.values ? (
                            <Cell
                              type={known(column)?.type ?? 'other'}
                              notes={{ identifies: isIdentifier(table, known(column)!) }}
                              value={seen.values[column]}
                              masked={seen.masked.includes(column)}
                            />
                          ) : (
                            <span className="text-soft italic">hidden</span>
                          ))}
                        {differs && <span className="sr-only"> (differs)</span>}
                      </td>
                    );
                  })}
                </tr>
              );
            }),
          )}
        </DataTable>
      )}
    </>
  );
}
