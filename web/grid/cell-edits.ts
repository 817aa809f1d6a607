import type { ClipboardEvent } from 'react';
import type { TableInfo, ViewRecord } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { fromPlain, plainText } from '../../core/table/plain-text';
import { holds, readBlock, writeBlock, type Block } from './block';
import { cellKey, type CellChange, type useWrites } from './use-writes';

interface Selected {
  info: TableInfo;
  data: ViewRecord[];
  shown: ColumnInfo[];
  selection: Block;
  writes: ReturnType<typeof useWrites>;
  isEditing: boolean;
  /** Whether there are records beyond those that are loaded. */
  hasMore: boolean;
  canChange: (column: ColumnInfo, record: ViewRecord | undefined) => boolean;
}

/** What is done to the selected cells at once: cleared, copied, pasted over, taken back. */
export function cellEdits({ info, data, shown, selection, writes, isEditing, hasMore, canChange }: Selected) {
  /** The cells of the selection that can be changed. */
  const changesIn = (
    textAt: (row: number, column: number) => string | undefined,
  ): { changes: CellChange[]; closed: number } => {
    const changes: CellChange[] = [];
    let closed = 0;
    for (let row = 0; row < data.length; row++) {
      for (let column = 0; column < shown.length; column++) {
        const text = textAt(row, column);
        if (text === undefined) continue;
        const [record, of] = [data[row]!, shown[column]!];
        if (!canChange(of, record)) closed++;
        else if (text !== plainText(record.values[of.path]))
          changes.push({
            id: record.id!,
            path: of.path,
            from: record.values[of.path],
            to: fromPlain(of, text),
            typed: text,
          });
      }
    }
    return { changes, closed };
  };
  const apply = ({ changes, closed }: { changes: CellChange[]; closed: number }, label: string) => {
    if (closed > 0) writes.say(`${closed} of these cells can't be changed here; they were left as they are.`, true);
    if (changes.length > 0) void writes.change(changes, label);
  };
  /** What was typed and refused goes from the selected cells; the values that stand come back. */
  const takeBack = (): boolean => {
    const keys = data
      .slice(selection.top, selection.bottom + 1)
      .flatMap((record) =>
        shown.slice(selection.left, selection.right + 1).map((column) => cellKey(record.id ?? '', column.path)),
      )
      .filter((key) => writes.unkept.get(key)?.reason);
    for (const key of keys) writes.forget(key);
    if (keys.length > 0) writes.say('What was typed and refused is taken back.');
    return keys.length > 0;
  };
  const clear = () =>
    apply(
      changesIn((row, column) => (holds(selection, row, column) ? '' : undefined)),
      'clear cells',
    );
  const copy = (event: ClipboardEvent) => {
    if (isEditing) return;
    event.preventDefault();
    const block = data
      .slice(selection.top, selection.bottom + 1)
      .map((record) =>
        shown
          .slice(selection.left, selection.right + 1)
          .map(
            (column) =>
              writes.unkept.get(cellKey(record.id ?? '', column.path))?.typed ?? plainText(record.values[column.path]),
          ),
      );
    event.clipboardData.setData('text/plain', writeBlock(block));
  };
  const paste = (event: ClipboardEvent) => {
    if (isEditing) return;
    event.preventDefault();
    const block = readBlock(event.clipboardData.getData('text/plain'));
    const one = block.length === 1 && block[0]!.length === 1;
    const { top, left } = selection;
    const { changes, closed } = changesIn((row, column) =>
      one ? (holds(selection, row, column) ? block[0]![0] : undefined) : block[row - top]?.[column - left],
    );
    if (closed > 0) writes.say(`${closed} of these cells can't be changed here; they were left as they are.`, true);
    // What reaches beyond the last record becomes new ones.
    const beyond =
      hasMore || one || !info.fills
        ? []
        : block.slice(Math.max(0, data.length - top)).filter((cells) => cells.some((cell) => cell !== ''));
    const fresh = beyond.map((cells) =>
      Object.fromEntries(
        cells.flatMap((cell, i) => {
          const column = shown[left + i];
          return column && info.fills!.includes(column.path) && cell !== ''
            ? [[column.path, fromPlain(column, cell)]]
            : [];
        }),
      ),
    );
    if (changes.length + fresh.length > 0)
      void writes.paste(changes, fresh, one ? 'paste' : `paste ${block.length} × ${block[0]?.length ?? 0} cells`);
  };
  return { clear, copy, paste, takeBack };
}
