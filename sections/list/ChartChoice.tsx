import type { ColumnInfo } from '../../web/client/portal';
import { isAmount } from '../../web/records/Cell';
import { Select } from '../../web/ui/Select';
import { dateStepNames, type DateStep } from '../../core/dialect/dialect';
import { drawnText, readDrawn, type DrawnBy } from '../chart/drawn-by';
import { chartForms, type ChartForm } from '../chart/spec';

const forms: Record<ChartForm, string> = { bars: 'bars', lines: 'a line', areas: 'an area', shares: 'shares' };
const steps: Record<DateStep, string> = {
  day: 'by day',
  week: 'by week',
  month: 'by month',
  quarter: 'by quarter',
  year: 'by year',
};

const isDate = (column: ColumnInfo | undefined) => column?.type === 'date' || column?.type === 'date and time';

/** What a list is drawn by above it: its columns, how many or how much, and in which form. */
export function ChartChoice({
  columns,
  chart,
  onChart,
}: {
  columns: ColumnInfo[];
  chart: string;
  onChart: (chart: string) => void;
}) {
  const drawn = readDrawn(chart);
  const by = columns.filter(({ type, sortable }) => sortable && type !== 'several choices' && type !== 'long text');
  const amounts = columns.filter((column) => isAmount(column) && column.sortable);
  if (by.length === 0) return null;
  const at = (path: string) => columns.find((column) => column.path === path);
  const change = (to: Partial<DrawnBy>) => drawn && onChart(drawnText({ ...drawn, ...to }));
  const pick = (path: string) => {
    if (path === '') return onChart('');
    const { form = 'bars', measure = 'count', column } = drawn ?? {};
    const step = isDate(at(path)) ? { step: 'month' as const } : {};
    onChart(drawnText({ form, measure, ...(column === undefined ? {} : { column }), by: { column: path, ...step } }));
  };
  return (
    <section aria-label="Chart" className="grid gap-1.5 border-t border-line pt-2">
      <h2 className="text-sm">Chart</h2>
      <Select aria-label="Drawn by" value={drawn?.by.column ?? ''} onPick={pick}>
        <option value="">none</option>
        {by.map(({ path, label }) => (
          <option key={path} value={path}>
            {label}
          </option>
        ))}
      </Select>
      {drawn && (
        <div className="flex flex-wrap gap-1">
          {isDate(at(drawn.by.column)) && (
            <Select
              aria-label="Step"
              className="w-auto"
              value={drawn.by.step ?? 'month'}
              onPick={(step) => change({ by: { ...drawn.by, step: step as DateStep } })}
            >
              {dateStepNames.map((step) => (
                <option key={step} value={step}>
                  {steps[step]}
                </option>
              ))}
            </Select>
          )}
          <Select
            aria-label="Of what"
            className="w-auto"
            value={drawn.column === undefined ? '' : `${drawn.measure} ${drawn.column}`}
            onPick={(picked) => {
              const [measure, ...column] = picked.split(' ');
              if (picked === '') onChart(drawnText({ form: drawn.form, by: drawn.by, measure: 'count' }));
              else change({ measure: measure as DrawnBy['measure'], column: column.join(' ') });
            }}
          >
            <option value="">how many</option>
            {amounts.flatMap(({ path, label }) =>
              (['sum', 'average'] as const).map((measure) => (
                <option key={`${measure} ${path}`} value={`${measure} ${path}`}>
                  {`${measure} of ${label.toLowerCase()}`}
                </option>
              )),
            )}
          </Select>
          <Select
            aria-label="Drawn as"
            className="w-auto"
            value={drawn.form}
            onPick={(form) => change({ form: form as ChartForm })}
          >
            {chartForms.map((form) => (
              <option key={form} value={form}>
                {forms[form]}
              </option>
            ))}
          </Select>
        </div>
      )}
    </section>
  );
}
