import type { KeyboardEvent } from 'react';
import type { ColumnInfo } from '../client/portal';
import type { Spot } from './block';
import { rowHeight } from './sizes';

interface Keyboard {
  isEditing: boolean;
  active: Spot;
  rows: number;
  columns: ColumnInfo[];
  go: (spot: Spot, extend?: boolean) => void;
  edit: (spot: Spot, text?: string) => void;
  clear: () => void;
  /** What was typed and refused goes; whether there was any. */
  takeBack: () => boolean;
  open: () => void;
  /** Ticks the selected records, or unticks them. */
  pick: () => void;
  leave: () => void;
  all: () => void;
}

/** What the keys do in the grid. */
export function gridKeys({
  isEditing,
  active,
  rows,
  columns,
  go,
  edit,
  clear,
  takeBack,
  open,
  pick,
  leave,
  all,
}: Keyboard) {
  return (event: KeyboardEvent<HTMLElement>) => {
    if (isEditing || (event.target as HTMLElement).closest('input, select, textarea, button')) return;
    const pageRows = Math.max(1, Math.floor(event.currentTarget.clientHeight / rowHeight) - 2);
    const jump = event.ctrlKey || event.metaKey;
    const { row, column } = active;
    const moves: Record<string, Spot> = {
      ArrowUp: { row: jump ? 0 : row - 1, column },
      ArrowDown: { row: jump ? rows - 1 : row + 1, column },
      ArrowLeft: { row, column: jump ? 0 : column - 1 },
      ArrowRight: { row, column: jump ? columns.length - 1 : column + 1 },
      PageUp: { row: row - pageRows, column },
      PageDown: { row: row + pageRows, column },
      Home: { row: jump ? 0 : row, column: 0 },
      End: { row: jump ? rows - 1 : row, column: columns.length - 1 },
    };
    const to = moves[event.key];
    if (to) {
      event.preventDefault();
      go(to, event.shiftKey);
    } else if (event.key === 'Enter' && jump) {
      open();
    } else if (event.key === 'Enter' || event.key === 'F2') {
      event.preventDefault();
      edit(active);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      clear();
    } else if (event.key === ' ') {
      event.preventDefault();
      pick();
    } else if (event.key === 'Escape') {
      takeBack();
      leave();
    } else if (jump && event.key.toLowerCase() === 'z' && !event.shiftKey && takeBack()) {
      event.preventDefault();
      event.stopPropagation();
    } else if (jump && event.key.toLowerCase() === 'a') {
      event.preventDefault();
      all();
    } else if (
      event.key.length === 1 &&
      !jump &&
      !event.altKey &&
      event.key !== '.' &&
      event.key !== '/' &&
      event.key !== '?'
    ) {
      event.preventDefault();
      const chosen = columns[column];
      edit(
        active,
        chosen && ['date', 'one choice', 'yes/no', 'several choices'].includes(chosen.type) ? undefined : event.key,
      );
    }
  };
}
