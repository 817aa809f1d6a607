import type { ColumnInfo } from '../../web/client/portal';
import { useTotals } from '../../web/client/numbers';
import { useListState, usePlace } from '../../web/place/place';
import { isAmount } from '../../web/records/Cell';
import { shownNumber } from '../../web/records/numbers';
import type { ShowProps } from '../show';

type ListInfo = ShowProps<'list'>['section'];

/** The sums of a list's columns, where it stands in lines. */
export function TotalsLine({ section }: { section: ListInfo }) {
  const totals = useSums(section);
  return (
    <dl className="flex flex-wrap gap-x-4 border-t-2 border-line-strong px-3 py-2.5 text-sm font-semibold tabular-nums">
      {section.columns.flatMap((column) => {
        const total = totals(column.path);
        return total
          ? [
              <div key={column.path} className="flex gap-1.5">
                <dt className="font-normal text-soft">{column.label} in all</dt>
                <dd>
                  {shownNumber({ label: section.label, measure: 'sum', column }, total.number)}
                  {total.leftOut > 0 && ` without ${total.leftOut.toLocaleString()} hidden`}
                </dd>
              </div>,
            ]
          : [];
      })}
    </dl>
  );
}

function useSums(section: ListInfo) {
  const { base, spot } = usePlace();
  const { view, search, filter } = useListState(section.id).state;
  const answer = useTotals(base, spot.page, section.id, { view, search, filter }, true);
  return (path: string) => answer.data?.totals.find(({ column }) => column === path);
}

/** Below a list: the sums of its columns over all that it holds, not of the page alone. */
export default function TotalsRow({
  section,
  columns,
  isTicked,
}: {
  section: ListInfo;
  columns: ColumnInfo[];
  isTicked: boolean;
}) {
  const of = useSums(section);
  return (
    <tfoot>
      <tr className="border-t-2 border-line-strong font-semibold tabular-nums">
        {isTicked && <td />}
        {columns.map((column, i) => {
          const total = of(column.path);
          return (
            <td key={column.path} className={`px-3 py-2 ${isAmount(column) ? 'text-right' : ''}`}>
              {total
                ? shownNumber({ label: section.label, measure: 'sum', column }, total.number)
                : i === 0
                  ? 'In all'
                  : null}
              {total && total.leftOut > 0 && (
                <span className="block text-sm font-normal text-soft">
                  without {total.leftOut.toLocaleString()} hidden
                </span>
              )}
            </td>
          );
        })}
      </tr>
    </tfoot>
  );
}
