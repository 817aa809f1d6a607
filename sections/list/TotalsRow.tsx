import type { ColumnInfo } from '../../web/client/portal';
import { useTotals } from '../../web/client/numbers';
import { useListState, usePlace } from '../../web/place/place';
import { isAmount } from '../../web/records/Cell';
import { shownNumber } from '../../web/records/numbers';
import type { ShowProps } from '../show';

type ListInfo = ShowProps<'list'>['section'];

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
  const { base, spot } = usePlace();
  const { state } = useListState(section.id);
  const { view, search, filter } = state;
  const answer = useTotals(base, spot.page, section.id, { view, search, filter }, true);
  const of = (path: string) => answer.data?.totals.find(({ column }) => column === path);
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
