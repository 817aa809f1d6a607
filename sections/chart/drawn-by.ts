import { figureMeasures, type FigureMeasure } from '../../core/definition/figure-measures';
import { dateStepNames, type DateStep } from '../../core/dialect/dialect';
import { chartForms, type ChartForm, type GroupedBy } from './spec';

/** How somebody has a list drawn above it. */
export interface DrawnBy {
  form: ChartForm;
  measure: FigureMeasure;
  /** Absent for a count. */
  column?: string;
  by: GroupedBy;
}

/** As an address says it: `bars;sum;fee;planned_for;month`. */
export const drawnText = ({ form, measure, column = '', by }: DrawnBy): string =>
  [form, measure, column, by.column, by.step ?? ''].map(encodeURIComponent).join(';');

/** What a text of an address draws; null where it is none. Columns may be anything: whoever reckons looks. */
export function readDrawn(text: string): DrawnBy | null {
  let parts: string[];
  try {
    parts = text.split(';').map(decodeURIComponent);
  } catch {
    return null;
  }
  const [form = '', measure = '', column = '', by = '', step = ''] = parts;
  const isOne = <T extends string>(of: readonly T[], given: string): given is T => of.includes(given as T);
  if (parts.length !== 5 || by === '' || !isOne<ChartForm>(chartForms, form)) return null;
  if (!isOne<FigureMeasure>(figureMeasures, measure) || (measure === 'count') !== (column === '')) return null;
  if (step !== '' && !isOne<DateStep>(dateStepNames, step)) return null;
  return {
    form,
    measure,
    ...(column === '' ? {} : { column }),
    by: { column: by, ...(step === '' ? {} : { step }) },
  };
}

/** The same by other names of its columns. */
export const renamedDrawn = (drawn: DrawnBy, path: (text: string) => string): DrawnBy => ({
  ...drawn,
  ...(drawn.column === undefined ? {} : { column: path(drawn.column) }),
  by: { ...drawn.by, column: path(drawn.by.column) },
});

/** The columns that it reckons with. */
export const columnsDrawn = ({ column, by }: DrawnBy): string[] => [
  by.column,
  ...(column === undefined ? [] : [column]),
];
