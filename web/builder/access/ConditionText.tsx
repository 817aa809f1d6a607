import { useRef, useState } from 'react';
import type { Table } from '../../../core/table/catalogue';
import { useBench } from '../bench/bench-context';
import { completions } from './completions';

/** The text form of a condition. Below it, what the word at the caret could become; Ctrl+Space takes the first. */
export function ConditionText({
  table,
  name,
  text,
  wrong,
  onChange,
  onDone,
}: {
  table: Table;
  name: string;
  text: string;
  wrong: boolean;
  onChange: (text: string) => void;
  onDone: () => void;
}) {
  const { draft, catalogue } = useBench();
  const field = useRef<HTMLTextAreaElement>(null);
  const [caret, setCaret] = useState(text.length);
  const offered = completions(text, Math.min(caret, text.length), draft, catalogue, table);
  const take = (word: string) => {
    const next = text.slice(0, offered.from) + word + text.slice(Math.min(caret, text.length));
    const end = offered.from + word.length;
    onChange(next);
    setCaret(end);
    requestAnimationFrame(() => {
      field.current?.focus();
      field.current?.setSelectionRange(end, end);
    });
  };
  return (
    <div
      className="grid gap-1"
      onBlur={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget)) onDone();
      }}
    >
      <textarea
        ref={field}
        className="field font-code text-sm"
        rows={Math.min(8, text.split('\n').length + 1)}
        spellCheck={false}
        aria-label={`${name} as text`}
        aria-invalid={wrong}
        value={text}
        onChange={(event) => {
          setCaret(event.target.selectionEnd);
          onChange(event.target.value);
        }}
        onSelect={(event) => setCaret(event.currentTarget.selectionEnd)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) onDone();
          if (event.key === ' ' && event.ctrlKey && offered.words[0] !== undefined) {
            event.preventDefault();
            take(offered.words[0]);
          }
        }}
      />
      {offered.words.length > 0 && (
        <div role="group" aria-label="Could become" className="flex flex-wrap items-center gap-1">
          {offered.words.map((word, i) => (
            <button
              key={word}
              type="button"
              className={
                'min-h-6 rounded-stone border border-line bg-sunk px-1.5 font-code text-xs ' +
                'hover:border-line-strong'
              }
              onClick={() => take(word)}
            >
              {word}
              {i === 0 && <span className="ml-1 font-sans text-soft">Ctrl+Space</span>}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
