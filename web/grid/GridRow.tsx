import { memo, type MouseEvent, type PointerEvent } from 'react';
import type { TableInfo, ViewRecord } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { plainText } from '../../core/table/plain-text';
import { isAmount } from '../records/Cell';
import { RecordCell, titleIn } from '../records/RecordCell';
import type { Spot } from './block';
import { CellEditor, type Onward } from './CellEditor';
import { markWidth, rowHeight } from './sizes';
import { cellKey, type Unkept } from './use-writes';
import { hint } from '../ui/hint';

/** What can be done in a line of the grid. */
export interface RowActs {
  toggle: (id: string | null) => void;
  open: (id: string | null) => void;
  press: (spot: Spot, event: MouseEvent) => void;
  drag: (spot: Spot, event: PointerEvent) => void;
  edit: (spot: Spot) => void;
  take: (spot: Spot, text: string, onward: Onward) => void;
  cancel: () => void;
  [name: string]: (...given: never[]) => unknown;
}

interface GridRowProps {
  base: string;
  info: TableInfo;
  /** What the ids of its cells begin with. */
  id: string;
  index: number;
  record: ViewRecord;
  shown: ColumnInfo[];
  unkept: ReadonlyMap<string, Unkept>;
  /** Of the columns, in pixels, between commas: the same as long as none is sized. */
  widths: string;
  width: number;
  /** The columns that are drawn, from the first to the last. */
  from: number;
  to: number;
  isPicked: boolean;
  /** The active cell's column, where it is in this line; -1 where it is in none. */
  activeAt: number;
  /** From which column to which it is selected; -1 where it isn't. */
  heldFrom: number;
  heldTo: number;
  /** Whether more than the active cell is selected. */
  isBlock: boolean;
  /** The text of the active cell while it is being changed. */
  edited: string | null;
  acts: RowActs;
}

/** A sheet with a part beside it: one box, since there is one in each of the lines that scroll by. */
const OpensBeside = () => (
  <span aria-hidden className="block h-[11px] w-[13px] rounded-[1px] border-[1.5px] border-r-[5px] border-current" />
);

/** Clipped: what is hidden can be scrolled by a program, which is dear for each of so many cells. */
const oneLine = 'overflow-clip text-ellipsis whitespace-nowrap leading-[31px]';

/** What stands in a relation's column, where its title is shown in the cell. */
const leadsTo = (column: ColumnInfo, record: ViewRecord): string | null =>
  column.relation ? `${column.label}: ${plainText(record.values[column.path])}` : null;

/** One record of the grid, with the cell in it that is being changed; drawn anew when something of it is another. */
export const GridRow = memo(function GridRow({
  base,
  info,
  id,
  index,
  record,
  shown,
  unkept,
  widths,
  width,
  from,
  to,
  isPicked,
  activeAt,
  heldFrom,
  heldTo,
  isBlock,
  edited,
  acts,
}: GridRowProps) {
  const each = widths.split(',').map(Number);
  const before = each.slice(0, from).reduce((sum, one) => sum + one, 0);
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={isPicked}
      className={`absolute left-0 flex border-b border-line ${isPicked ? 'bg-lichen-wash' : 'bg-paper'}`}
      style={{ top: (index + 1) * rowHeight, height: rowHeight, width }}
    >
      <div
        role="rowheader"
        className={
          'sticky left-0 z-[5] flex shrink-0 items-center gap-1 border-r border-line px-2 ' +
          `${isPicked ? 'bg-lichen-wash' : 'bg-paper'}`
        }
        style={{ width: markWidth }}
      >
        {record.id !== null && (
          <input
            type="checkbox"
            tabIndex={-1}
            aria-label={`Select record ${index + 1}`}
            checked={isPicked}
            onChange={() => acts.toggle(record.id)}
          />
        )}
        {record.id !== null && (
          <button
            type="button"
            tabIndex={-1}
            aria-label={`Open record ${index + 1}`}
            className="p-1 text-soft hover:text-ink"
            onClick={() => acts.open(record.id)}
          >
            <OpensBeside />
          </button>
        )}
      </div>
      {shown.slice(from, to + 1).map((column, i) => {
        const c = from + i;
        const spot = { row: index, column: c };
        const isActive = activeAt === c;
        const isHeld = c >= heldFrom && c <= heldTo;
        const kept = record.id === null ? undefined : unkept.get(cellKey(record.id, column.path));
        const isEdited = isActive && edited !== null;
        return (
          <div
            key={column.path}
            // Only the active cell is led to by it.
            id={isActive ? `${id}-${index}-${c}` : undefined}
            role="gridcell"
            tabIndex={-1}
            aria-colindex={c + 2}
            aria-invalid={kept?.reason ? true : undefined}
            aria-selected={isHeld}
            {...hint(kept?.reason, true)}
            {...(kept?.reason || isEdited ? {} : hint(leadsTo(column, record)))}
            className={
              `${isEdited ? 'relative flex items-center' : oneLine} ` +
              'shrink-0 border-r border-line px-2 outline-none select-none ' +
              `${isHeld && isBlock ? 'bg-water-wash' : ''} ` +
              `${isActive ? 'shadow-[inset_0_0_0_2px_var(--water)]' : ''} ` +
              `${kept?.reason ? 'bg-iron-wash' : ''} ` +
              `${isAmount(column) ? 'text-right' : ''}`
            }
            style={{ width: each[c], marginLeft: i === 0 ? before : undefined }}
            onMouseDown={(event) => acts.press(spot, event)}
            onPointerEnter={(event) => acts.drag(spot, event)}
            onDoubleClick={() => acts.edit(spot)}
          >
            {isEdited ? (
              <CellEditor
                base={base}
                info={info}
                column={column}
                text={edited}
                title={edited === plainText(record.values[column.path]) ? titleIn(record, column) : null}
                onTake={(text, onward) => acts.take(spot, text, onward)}
                onCancel={acts.cancel}
              />
            ) : kept ? (
              <span className={kept.reason ? 'font-medium text-iron' : 'text-soft'}>
                {kept.typed === '' ? '–' : kept.typed}
              </span>
            ) : (
              // A press chooses the cell: what it leads to is opened beside, but for a file.
              <RecordCell
                base={base}
                table={info.table}
                column={column}
                record={record}
                plain={column.kind !== 'file'}
              />
            )}
          </div>
        );
      })}
    </div>
  );
});
