import { notationExamples, type Notation } from '../../../core/table/notation';

/** How the dates or numbers of a column are written; asked wherever there is more than one way to read them. */
export function NotationChoice({ header, notations, value, onChange }: { header: string; notations: Notation[]; value: Notation | undefined; onChange: (notation: Notation | undefined) => void }) {
  return (
    <select className={`field mt-1 min-w-40 ${value === undefined ? 'border-ochre' : ''}`} aria-label={`How ${header} is written`} value={value ?? ''} onChange={(event) => onChange((event.target.value || undefined) as Notation | undefined)}>
      <option value="">How is it written?</option>
      {notations.map((notation) => <option key={notation} value={notation}>{notation}: {notationExamples[notation]}</option>)}
    </select>
  );
}
