import { dateNotations, notationExamples, type Notation } from '../../core/table/notation';
import { notationsOf } from '../../core/table/read-cell';
import { Select } from '../ui/Select';

/**
 * How the dates or numbers of a column are written; `asked` where the values show that there is more than one way to
 * read them. Nothing for types that are written in one way.
 */
export function NotationChoice({
  header,
  type,
  asked,
  value,
  onChange,
}: {
  header: string;
  type: string;
  asked: readonly Notation[];
  value: Notation | undefined;
  onChange: (notation: Notation | undefined) => void;
}) {
  const all = notationsOf({ type });
  if (all.length === 0) return null;
  const likely = all.filter((notation) => asked.includes(notation));
  const open = likely.length > 0 && value === undefined;
  const plainly = `plainly: ${dateNotations.includes(all[0]!) ? '2026-11-24' : '1234.5'}`;
  return (
    <Select
      className={`field mt-1 min-w-40 ${open ? 'border-ochre' : ''}`}
      aria-label={`How ${header} is written`}
      value={value ?? ''}
      onPick={(picked) => onChange((picked || undefined) as Notation | undefined)}
    >
      <option value="">{open ? 'How is it written?' : plainly}</option>
      {[...likely, ...all.filter((notation) => !likely.includes(notation))].map((notation) => (
        <option key={notation} value={notation}>
          {notation}: {notationExamples[notation]}
        </option>
      ))}
    </Select>
  );
}
