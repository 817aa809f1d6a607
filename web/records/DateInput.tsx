import { lazy, Suspense, useRef, useState, type ComponentProps, type Ref } from 'react';
import { CalendarDays } from 'lucide-react';
import { readDay, readMoment } from '../../core/table/typed-day';
import { dayExample, dayOrder, ownDay } from './own-days';

const Calendar = lazy(() => import('./Calendar'));

interface DateInputProps {
  label: string;
  /** ISO 8601 where it is a day; else what was typed. */
  value: string;
  onChange: (text: string) => void;
  withTime?: boolean;
  inputProps?: Omit<ComponentProps<'input'>, 'ref' | 'value' | 'onChange'>;
  inputRef?: Ref<HTMLInputElement>;
  className?: string;
  frame?: string;
}

/** A day, or a day with a time: typed as the person writes it or as ISO 8601, or picked from a calendar. */
export function DateInput({
  label,
  value,
  onChange,
  withTime = false,
  inputProps: { onBlur, ...inputProps } = {},
  inputRef,
  className = 'field',
  frame = 'relative',
}: DateInputProps) {
  const [typed, setTyped] = useState<{ text: string; means: string } | null>(null);
  const [picking, setPicking] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const write = (text: string) => {
    const means = (withTime ? readMoment : readDay)(text, dayOrder) ?? text.trim();
    setTyped({ text, means });
    onChange(means);
  };
  // What was typed stands until it is left; another value from outside takes its place.
  const shown = typed?.means === value ? typed.text : ownDay(value);
  return (
    <div ref={box} className={frame}>
      <input
        type="text"
        autoComplete="off"
        placeholder={withTime ? `${dayExample} 09:30` : dayExample}
        {...inputProps}
        ref={inputRef}
        className={`${className} pr-8`}
        value={shown}
        onChange={(event) => write(event.target.value)}
        onBlur={(event) => {
          // The calendar belongs to the input.
          if (picking || box.current?.contains(event.relatedTarget)) return;
          setTyped(null);
          onBlur?.(event);
        }}
      />
      <button
        type="button"
        tabIndex={inputProps.tabIndex}
        aria-label={`Calendar for ${label}`}
        aria-expanded={picking}
        className="absolute right-1 top-1/2 grid h-7 w-7 -translate-y-1/2 place-items-center text-soft hover:text-ink"
        onClick={() => setPicking(!picking)}
      >
        <CalendarDays size={15} aria-hidden />
      </button>
      {picking && (
        <Suspense>
          <Calendar
            label={label}
            around={box}
            day={/^\d{4}-\d\d-\d\d/.exec(value)?.[0] ?? null}
            onClose={() => {
              setPicking(false);
              box.current?.querySelector('input')?.focus();
            }}
            onPick={(day) => {
              setTyped(null);
              onChange(withTime ? `${day} ${/\d\d:\d\d(:\d\d)?/.exec(value.slice(10))?.[0] ?? '00:00:00'}` : day);
            }}
          />
        </Suspense>
      )}
    </div>
  );
}
