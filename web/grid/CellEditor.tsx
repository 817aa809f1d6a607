import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import type { TableInfo } from '../client/grid';
import type { ColumnInfo } from '../client/portal';
import { RelationChoice } from './RelationChoice';

/** Where to go after a value is taken. */
export type Onward = 'stay' | 'down' | 'up' | 'right' | 'left';

const look = 'absolute inset-0 z-10 min-h-full w-full border-2 border-water bg-paper px-1.5 text-ink outline-none';

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
  const input = useRef<HTMLInputElement & HTMLSelectElement & HTMLTextAreaElement>(null);
  const over = useRef(false);
  useEffect(() => {
    input.current?.focus();
    const element: HTMLElement | null = input.current;
    if (element instanceof HTMLInputElement && element.type === 'text')
      element.setSelectionRange(first.length, first.length);
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
  const common = { 'aria-label': column.label, onKeyDown: keys, onBlur: () => take(text, 'stay'), className: look };
  const change = (event: { target: { value: string } }) => setText(event.target.value);
  if (info.relations.some((each) => each.column === column.path)) {
    return (
      <RelationChoice
        base={base}
        info={info}
        column={column.path}
        label={column.label}
        value={first}
        title={title}
        inputRef={input}
        frame="absolute inset-0 z-10"
        look="min-h-full w-full border-2 border-water bg-paper px-1.5 text-ink outline-none"
        onPick={(value) => take(value, 'down')}
        inputProps={{ onBlur: common.onBlur, onKeyDown: keys }}
        onChoose={(value) => setText(value)}
      />
    );
  }
  if (column.type === 'one choice' || column.type === 'yes/no') {
    const choices = column.type === 'yes/no' ? ['true', 'false'] : (column.choices ?? []);
    return (
      <select ref={input} {...common} value={text} onChange={change}>
        {(column.nullable || text === '') && <option value="">–</option>}
        {choices.map((choice) => (
          <option key={choice} value={choice}>
            {choice === 'true' ? 'Yes' : choice === 'false' ? 'No' : choice}
          </option>
        ))}
      </select>
    );
  }
  if (column.type === 'several choices')
    return <SeveralInput ref={input} {...common} choices={column.choices ?? []} text={text} setText={setText} />;
  if (column.type === 'long text')
    return <textarea ref={input} {...common} className={`${look} min-h-28 py-1`} value={text} onChange={change} />;
  if (column.type === 'date')
    return <input ref={input} {...common} type="date" max="9999-12-31" value={text} onChange={change} />;
  return (
    <input
      ref={input}
      {...common}
      type="text"
      inputMode={['whole number', 'decimal', 'number'].includes(column.type) ? 'decimal' : undefined}
      autoComplete="off"
      value={text}
      onChange={change}
    />
  );
}

type InputProps = Pick<
  React.InputHTMLAttributes<HTMLInputElement>,
  'aria-label' | 'onKeyDown' | 'onBlur' | 'className'
> & { ref: React.Ref<HTMLInputElement>; text: string; setText: (text: string) => void };

/** Several choices as text with commas; the choices stand below to be ticked. */
function SeveralInput({ choices, text, setText, ...rest }: InputProps & { choices: string[] }) {
  const chosen = text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean);
  return (
    <>
      <input {...rest} type="text" autoComplete="off" value={text} onChange={(event) => setText(event.target.value)} />
      <div className="absolute left-0 top-full z-20 grid min-w-full gap-1 border border-line-strong bg-paper p-2">
        {choices.map((choice) => (
          <label
            key={choice}
            className="flex items-center gap-2 whitespace-nowrap"
            onPointerDown={(event) => event.preventDefault()}
          >
            <input
              type="checkbox"
              tabIndex={-1}
              checked={chosen.includes(choice)}
              onChange={(event) =>
                setText(
                  choices.filter((each) => (each === choice ? event.target.checked : chosen.includes(each))).join(', '),
                )
              }
            />{' '}
            {choice}
          </label>
        ))}
      </div>
    </>
  );
}
