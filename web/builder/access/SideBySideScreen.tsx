import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { columnLabel } from '../../../core/definition/definition';
import { findTable, plainLabel } from '../../../core/table/catalogue';
import { useSideBySide, type SideBySide } from '../../client/access';
import { problemText } from '../../client/http';
import { Cell } from '../../ui/Cell';
import { Notice, Skeleton } from '../../ui/Notice';
import { useBench, type BenchPerson } from '../bench-context';
import { PersonPicker } from '../PersonChooser';

/** One table as the person in Seen by and a second one get it. */
export function SideBySideScreen() {
  const { slug, catalogue, draft, person, state } = useBench();
  const [params, setParams] = useSearchParams();
  const [other, setOther] = useState<BenchPerson | null>(null);
  const [only, setOnly] = useState(false);
  const name = params.get('table') ?? Object.keys(draft.access)[0] ?? catalogue.tables[0]?.name ?? '';
  const pair = useSideBySide(slug, name, person?.id ?? 0, person ? (other?.id ?? null) : null, only, state.revision);
  const table = findTable(catalogue, name);
  if (!person) return <Notice kind="say">Choose the first person in Seen by, on the right.</Notice>;
  return (
    <>
      <div className="flex flex-wrap items-center gap-3">
        <select aria-label="Table" className="field w-auto" value={name} onChange={(event) => setParams({ table: event.target.value }, { replace: true })}>{catalogue.tables.map((each) => <option key={each.name}>{each.name}</option>)}</select>
        <strong>{person.name}</strong><span className="text-soft">beside</span>
        <PersonPicker label="Second person" person={other} onChange={setOther} />
        <label className="inline-flex items-center gap-2"><input type="checkbox" checked={only} onChange={(event) => setOnly(event.target.checked)} /> only rows that one of them has</label>
      </div>
      {!other && <p className="text-soft">Choose the second person.</p>}
      {other && pair.isPending && <Skeleton />}
      {pair.isError && <Notice kind="fault">{problemText(pair.error)}</Notice>}
      {other && table && pair.data && <Pair data={pair.data} names={[person.name, other.name]} label={(column) => columnLabel(draft, table.name, column, plainLabel)} typeOf={(column) => table.columns.find((each) => each.name === column)!.type} />}
    </>
  );
}

function Pair({ data, names, label, typeOf }: { data: SideBySide; names: [string, string]; label: (column: string) => string; typeOf: (column: string) => Parameters<typeof Cell>[0]['type'] }) {
  const { first, second, both } = data.counts;
  return (
    <>
      <p data-testid="pair-counts"><strong>{names[0]}</strong> sees {first.toLocaleString()} rows, <strong>{names[1]}</strong> {second.toLocaleString()}; {both.toLocaleString()} are the same, {(first - both).toLocaleString()} only {names[0]} has, {(second - both).toLocaleString()} only {names[1]}.</p>
      {data.records.length === 0 && <p className="text-soft">There is no such row.</p>}
      {data.records.length > 0 && (
        <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Rows of both">
          <table className="text-left text-sm">
            <thead><tr className="border-b border-line text-soft"><th scope="col" className="py-1 pr-3">Record</th><th scope="col" className="py-1 pr-3">Seen by</th>{data.columns.map((column) => <th key={column} scope="col" className="py-1 pr-3 whitespace-nowrap">{label(column)}</th>)}</tr></thead>
            <tbody>{data.records.map((record, i) => [0, 1].map((side) => {
              const seen = record.seen[side as 0 | 1];
              return (
                <tr key={`${record.id ?? i}/${side}`} className={side === 1 ? 'border-b border-line-strong' : ''}>
                  <td className="py-0.5 pr-3 font-semibold">{side === 0 ? decodeURIComponent(record.id ?? '') : ''}</td>
                  <td className="py-0.5 pr-3 whitespace-nowrap">{names[side]}{!seen && <em className="text-iron"> not at all</em>}</td>
                  {data.columns.map((column) => {
                    const differs = record.differing.includes(column);
                    return <td key={column} className={`max-w-48 truncate py-0.5 pr-3 ${differs ? 'bg-ochre-wash font-semibold' : ''}`}>{seen && (column in seen.values ? <Cell type={typeOf(column)} value={seen.values[column]} masked={seen.masked.includes(column)} /> : <span className="text-soft italic">hidden</span>)}{differs && <span className="sr-only"> (differs)</span>}</td>;
                  })}
                </tr>
              );
            }))}</tbody>
          </table>
        </div>
      )}
    </>
  );
}
