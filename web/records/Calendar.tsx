import type { RefObject } from 'react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { DayPicker } from 'react-day-picker';
import { Popover } from '../ui/Popover';

const press = 'grid h-8 w-8 place-items-center rounded-stone hover:bg-sunk';

/** Days of the picker are local ones; only their numbers count. */
const isoOf = (date: Date) =>
  [
    String(date.getFullYear()).padStart(4, '0'),
    String(date.getMonth() + 1).padStart(2, '0'),
    String(date.getDate()).padStart(2, '0'),
  ].join('-');

const month = new Intl.DateTimeFormat(undefined, { month: 'long', year: 'numeric' });
const weekday = new Intl.DateTimeFormat(undefined, { weekday: 'short' });
const whole = new Intl.DateTimeFormat(undefined, { dateStyle: 'full' });
/** From Intl where the browser knows it; Monday, as ISO 8601 has it, elsewhere. */
const firstDay =
  ((new Intl.Locale(navigator.language) as unknown as { getWeekInfo?: () => { firstDay: number } }).getWeekInfo?.()
    .firstDay ?? 1) % 7;

/** A month to pick a day from, below its input. */
export default function Calendar({
  label,
  around,
  day,
  onPick,
  onClose,
}: {
  label: string;
  around: RefObject<HTMLElement | null>;
  /** ISO 8601; null when none is chosen. */
  day: string | null;
  onPick: (day: string) => void;
  onClose: () => void;
}) {
  const [year, of, date] = (day ?? '').split('-').map(Number);
  const chosen = day ? new Date(year!, of! - 1, date) : undefined;
  return (
    <Popover label={`Calendar for ${label}`} around={around} open onOpenChange={(open) => open || onClose()}>
      <DayPicker
        mode="single"
        // It was opened to choose a day: the focus goes to it, and back to the input.
        // oxlint-disable-next-line jsx-a11y/no-autofocus
        autoFocus
        required
        selected={chosen}
        defaultMonth={chosen}
        weekStartsOn={firstDay as 0}
        onSelect={(picked) => {
          onPick(isoOf(picked));
          onClose();
        }}
        formatters={{ formatCaption: (each) => month.format(each), formatWeekdayName: (each) => weekday.format(each) }}
        labels={{ labelDayButton: (each) => whole.format(each), labelGrid: (each) => month.format(each) }}
        components={{
          Chevron: ({ orientation }) =>
            orientation === 'left' ? <ChevronLeft size={16} aria-hidden /> : <ChevronRight size={16} aria-hidden />,
        }}
        classNames={{
          months: 'relative',
          nav: 'absolute right-0 top-0 flex',
          button_previous: press,
          button_next: press,
          month_caption: 'flex h-8 items-center font-head font-bold',
          weekday: 'h-7 w-8 text-xs font-normal text-soft',
          day: 'p-0 text-center',
          day_button: press,
          selected: 'rounded-stone bg-lichen text-white',
          today: 'font-bold underline',
          outside: 'text-soft',
        }}
      />
    </Popover>
  );
}
