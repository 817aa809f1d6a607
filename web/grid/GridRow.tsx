import type { CSSProperties, MouseEvent, PointerEvent } from 'react';
import { Maximize2 } from 'lucide-react';
import type { TableInfo, ViewRecord } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { plainText } from '../../core/table/plain-text';
import { isAmount } from '../records/Cell';
import { RecordCell, titleIn } from '../records/RecordCell';
import { holds, type Block, type Spot } from './block';
import { CellEditor, type Onward } from './CellEditor';
import { markWidth } from './sizes';
import { cellKey, type Unkept } from './use-writes';
import { hint } from '../ui/hint';

/** One record of the grid, with the cell in it that is being changed. */
export function GridRow({
  base,
  info,
  id,
  index,
  record,
  shown,
  unkept,
  style,
  widthOf,
  isPicked,
  active,
  selection,
  isBlock,
  editing,
  onToggle,
  onOpen,
  onPress,
  onDrag,
  onEdit,
  onTake,
  onCancel,
}: {
  base: string;
  info: TableInfo;
  /** What the ids of its cells begin with. */
  id: string;
  index: number;
  record: ViewRecord;
  shown: ColumnInfo[];
  unkept: ReadonlyMap<string, Unkept>;
  style: CSSProperties;
  widthOf: (place: number) => number | undefined;
  isPicked: boolean;
  active: Spot;
  selection: Block;
  /** Whether more than the active cell is selected. */
  isBlock: boolean;
  editing: { spot: Spot; text: string } | null;
  onToggle: () => void;
  onOpen: () => void;
  onPress: (spot: Spot) => (event: MouseEvent) => void;
  onDrag: (spot: Spot) => (event: PointerEvent) => void;
  onEdit: (spot: Spot) => void;
  onTake: (spot: Spot, text: string, onward: Onward) => void;
  onCancel: () => void;
}) {
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={isPicked}
      className={`absolute left-0 flex border-b border-line ${isPicked ? 'bg-lichen-wash' : 'bg-paper'}`}
      style={style}
    >
      <div
        role="rowheader"
        className={
          'sticky left-0 z-[5] flex items-center gap-1 border-r border-line px-2 ' +
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
            onChange={onToggle}
          />
        )}
        {record.id !== null && (
          <button
            type="button"
            tabIndex={-1}
            aria-label={`Open record ${index + 1}`}
            className="p-1 text-soft hover:text-ink"
            onClick={onOpen}
          >
            <Maximize2 size={13} aria-hidden />
          </button>
        )}
      </div>
      {shown.map((column, c) => {
        const spot = { row: index, column: c };
        const isActive = active.row === index && active.column === c;
        const kept = record.id === null ? undefined : unkept.get(cellKey(record.id, column.path));
        const isEdited = editing?.spot.row === index && editing.spot.column === c;
        return (
          <div
            key={column.path}
            id={`${id}-${index}-${c}`}
            role="gridcell"
            tabIndex={-1}
            aria-colindex={c + 2}
            aria-invalid={kept?.reason ? true : undefined}
            aria-selected={holds(selection, index, c)}
            {...hint(kept?.reason, true)}
            className={
              'relative flex items-center border-r border-line px-2 outline-none select-none ' +
              `${holds(selection, index, c) && isBlock ? 'bg-water-wash' : ''} ` +
              `${isActive ? 'shadow-[inset_0_0_0_2px_var(--water)]' : ''} ` +
              `${kept?.reason ? 'bg-iron-wash' : ''} ` +
              `${isAmount(column) ? 'justify-end' : ''}`
            }
            style={{ width: widthOf(c) }}
            onMouseDown={onPress(spot)}
            onPointerEnter={onDrag(spot)}
            onDoubleClick={() => onEdit(spot)}
          >
            {isEdited ? (
              <CellEditor
                base={base}
                info={info}
                column={column}
                text={editing.text}
                title={editing.text === plainText(record.values[column.path]) ? titleIn(record, column) : null}
                onTake={(text, onward) => onTake(spot, text, onward)}
                onCancel={onCancel}
              />
            ) : (
              <span
                className="truncate"
                {...hint(column.relation ? `${column.label}: ${plainText(record.values[column.path])}` : null)}
              >
                {kept ? (
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
              </span>
            )}
          </div>
        );
      })}
    </div>
  );
}
