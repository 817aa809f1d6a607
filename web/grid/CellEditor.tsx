import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import type { TableInfo } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { ChoiceBox } from '../records/ChoiceBox';
import { ColumnInput } from '../records/ColumnInput';
import { optionsOf } from '../records/options';
import RelationInput from '../records/RelationInput';

/** Where to go after a value is taken. */
export type Onward = 'stay' | 'down' | 'up' | 'right' | 'left';

const look = 'min-h-full w-full border-2 border-water bg-paper px-1.5 text-ink outline-none';

interface EditorProps {
  base: string;
  info: TableInfo;
  column: ColumnInfo;
  text: string;
  /** What the record that a relation leads to is called, where that is known. */
  title?: string | null;
  onTake: (text: string, onward: Onward) => void;
  onCancel: () => void;
}

/**
 * The editor that fits a column's type, in place of its cell. Enter and Tab take what is typed, Escape leaves it as it
 * was.
 */
export function CellEditor({ base, info, column, text: first, title = null, onTake, onCancel }: EditorProps) {
  const [text, setText] = useState(first);
  const over = useRef(false);
  const input = useRef<(HTMLInputElement & HTMLTextAreaElement) | null>(null);
  useEffect(() => {
    input.current?.focus();
    if (input.current?.type === 'text') input.current.setSelectionRange(first.length, first.length);
  }, [first]);
  const take = (value: string, onward: Onward) => {
    if (over.current) return;
    over.current = true;
    onTake(value, onward);
  };
  const keys = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') {
      event.preventDefault();
      over.current = true;
      onCancel();
    } else if (event.key === 'Enter' && !(event.shiftKey && column.type === 'long text')) {
      event.preventDefault();
      take(text, event.shiftKey ? 'up' : 'down');
    } else if (event.key === 'Tab') {
      event.preventDefault();
      take(text, event.shiftKey ? 'left' : 'right');
    }
  };
  const common = {
    inputRef: input,
    inputProps: { 'aria-label': column.label, onKeyDown: keys, onBlur: () => take(text, 'stay') },
    className: look,
  };
  const inPlace = { frame: 'absolute inset-0 z-10', label: column.label, onChange: setText };
  const onPick = (value: string) => take(value, 'down');
  if (column.relation)
    return (
      <RelationInput
        base={base}
        table={info.table}
        relation={column.relation.name}
        value={first}
        title={title}
        onPick={onPick}
        {...inPlace}
        {...common}
      />
    );
  const options = optionsOf(column);
  if (options)
    return (
      <ChoiceBox
        options={column.nullable ? [['', '–'], ...options] : options}
        value={text}
        onPick={onPick}
        {...inPlace}
        {...common}
      />
    );
  return (
    <ColumnInput
      column={column}
      value={text}
      onChange={setText}
      place={{ base, table: info.table, id: null }}
      {...common}
      className={column.type === 'long text' ? `${look} min-h-28 py-1` : look}
      inCell
    />
  );
}
