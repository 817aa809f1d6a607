import { constantOf } from '../../core/condition/constant';
import type { Condition } from '../../core/condition/tree';
import { readPath } from '../../core/definition/path';
import type { DateStep } from '../../core/dialect/dialect';
import { plainText } from '../../core/table/plain-text';
import { stepSpan } from '../../core/dialect/step-span';
import type { Value } from '../../core/table/value';
import type { ChartAnswer } from '../../web/client/numbers';
import type { ColumnInfo } from '../../web/client/portal';
import { cellText } from '../../web/records/Cell';
import { labelOf } from '../../web/records/options';

/** What is grouped by, as the page tells of it. */
export interface By {
  column: ColumnInfo;
  step: DateStep | null;
}

/** One place along a chart: a value that was grouped by, with a number for each series. */
export interface Place {
  /** Undefined for the groups that were put together. */
  key: Value | undefined;
  label: string;
  /** By the series' place; absent where there are no records. */
  values: Record<number, Value>;
}

/** A chart's numbers as they are drawn. */
export interface Drawn {
  places: Place[];
  series: { key: Value | undefined; label: string }[];
  /** Cells that were left out of the numbers because they are hidden. */
  leftOut: number;
}

const others = 'Others';

/** Puts groups in the order in which they are drawn: what has none of its own by its number, the most first. */
export function drawn({ groups }: ChartAnswer, by: By, series: By | null): Drawn {
  const places = new Map<string, Place>();
  const lines = new Map<string, { key: Value | undefined; label: string }>();
  if (!series) lines.set('', { key: undefined, label: '' });
  let leftOut = 0;
  // Series get their looks in one order, whichever of them a place has first.
  for (const group of series ? inChoiceOrder(groups, series) : []) {
    const of = group.key?.[1] as Value | undefined;
    const line = text(of, group.key === null);
    if (!lines.has(line)) lines.set(line, { key: of, label: group.key === null ? others : called(of, series!) });
  }
  for (const group of groups) {
    const key = group.key?.[0];
    const place = text(key, group.key === null);
    if (!places.has(place))
      places.set(place, { key, label: group.key === null ? others : called(key, by), values: {} });
    const of = series ? group.key?.[1] : undefined;
    const line = series ? text(of, group.key === null) : '';
    places.get(place)!.values[[...lines.keys()].indexOf(line)] = group.values[0] as Value;
    leftOut += group.leftOut[0] ?? 0;
  }
  const inOrder = [...places.values()];
  return {
    places: hasOrder(by) ? inOrder : inOrder.toSorted((one, other) => total(other) - total(one)),
    series: [...lines.values()],
    leftOut,
  };
}

/** Groups by the order in which a column's choices stand, then as they came. */
function inChoiceOrder(groups: ChartAnswer['groups'], series: By): ChartAnswer['groups'] {
  const choices = series.column.choices ?? [];
  const place = (group: ChartAnswer['groups'][number]) => {
    const at = choices.indexOf(plainText(group.key?.[1] as Value));
    return at < 0 ? choices.length : at;
  };
  return groups.toSorted((one, other) => place(one) - place(other));
}

const text = (key: Value | undefined, isOthers: boolean) => (isOthers ? 'others' : `=${plainText(key)}`);
const total = ({ key, values }: Place) =>
  key === undefined ? -1 : Object.values(values).reduce<number>((sum, value) => sum + Number(value ?? 0), 0);

/** Whether its values come in an order of their own: days, numbers and choices do. */
const hasOrder = ({ column, step }: By) =>
  step !== null || ['date', 'date and time', 'whole number', 'decimal', 'number', 'one choice'].includes(column.type);

const months = new Intl.DateTimeFormat(undefined, { month: 'short', year: 'numeric', timeZone: 'UTC' });

/** What a value that was grouped by is called. */
function called(key: Value | undefined, { column, step }: By): string {
  if (key === null || key === undefined) return 'none';
  const stored = String(key);
  // Alone, yes and no don't say to what.
  if (column.type === 'yes/no' && !column.labels) return `${column.label}: ${cellText(column.type, key).toLowerCase()}`;
  if (step === 'month') return months.format(new Date(`${stored}-01T00:00:00Z`));
  if (step === 'day') return cellText('date', stored);
  if (step !== null) return stored.replace('-', ' ');
  return labelOf(column.labels, stored) ?? cellText(column.type, key, column.identifies);
}

/** The records of a group, as a list's filter has them; null where a filter can't say it. */
export function groupFilter(key: Value | undefined, { column, step }: By): Condition | null {
  if (key === undefined || column.asked !== 'value') return null;
  const left = { kind: 'column' as const, path: readPath(column.path) ?? [column.path] };
  if (key === null) return { kind: 'null', left };
  if (step === null) return { kind: 'compare', left, comparison: '=', right: constantOf(column.type, plainText(key)) };
  const span = stepSpan(step, String(key));
  if (!span) return null;
  const end = (comparison: '>=' | '<', date: string): Condition => ({
    kind: 'compare',
    left,
    comparison,
    right: { kind: 'text', text: date },
  });
  return { kind: 'all', parts: [end('>=', span.from), end('<', span.until)] };
}
