import { counted } from '../../core/text/counted';
import type { ViewRecord } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import type { Spot } from './block';
import { cellKey, type Unkept, type useWrites } from './use-writes';

/** Why the active cell's value isn't kept, in words below the grid. */
export function faultAt(
  data: ViewRecord[],
  shown: ColumnInfo[],
  active: Spot,
  unkept: ReadonlyMap<string, Unkept>,
): string {
  const [record, column] = [data[active.row], shown[active.column]];
  return record?.id && column ? (unkept.get(cellKey(record.id, column.path))?.reason ?? '') : '';
}

/** What was said last, or what is wrong with the active cell, and how many cells are selected. */
export function GridFoot({
  writes,
  fault,
  cells,
}: {
  writes: ReturnType<typeof useWrites>;
  fault: string;
  cells: number | null;
}) {
  return (
    <div className="flex min-h-9 items-center gap-3 px-3 py-1 text-sm">
      <span
        role={writes.said?.fault ? 'alert' : 'status'}
        className={'min-w-0 flex-1 ' + (writes.said?.fault || fault ? 'font-medium text-iron' : 'text-soft')}
      >
        {fault || writes.said?.text}
      </span>
      {cells !== null && <span className="text-soft">{counted(cells, 'cell')}</span>}
    </div>
  );
}
