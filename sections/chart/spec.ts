import type { OnPage } from '../../core/definition/section-kinds';
import Joi from 'joi';
import { rowFilter } from '../../core/definition/access-schema';
import type { RowFilter } from '../../core/definition/definition';
import { figureMeasures, type FigureMeasure } from '../../core/definition/figure-measures';
import { id, label, tableName } from '../../core/definition/name-schema';
import { pathText } from '../../core/definition/section-schema';
import { dateStepNames, type DateStep } from '../../core/dialect/dialect';
import type { CheckedSpec } from '../../core/check/section-findings';
import { columnAt, unfit, unfitMeasure } from '../unfit-numbers';
import { followedGone } from '../followed';

/** How a chart draws its numbers. */
export const chartForms = ['bars', 'lines', 'areas', 'shares'] as const;

export type ChartForm = (typeof chartForms)[number];

/** A column that numbers are grouped by; a date by a step of the calendar. */
export interface GroupedBy {
  column: string;
  step?: DateStep;
}

/** Numbers over what the person sees of a table, by one column or two. */
export interface ChartSection extends OnPage {
  kind: 'chart';
  table: string;
  form: ChartForm;
  measure: FigureMeasure;
  /** Of which column, as a path in its text form; a count needs none. */
  column?: string;
  by: GroupedBy;
  /** Drawn side by side, each in a look of its own. */
  series?: GroupedBy;
  where: RowFilter;
  /** The list of the same page whose records it is drawn of, with its filters and search. */
  follows?: string;
  /** Groups of fewer records are put together. */
  smallestGroup?: number;
  /** A line across, at a number that matters, and what that is. */
  line?: { at: number; label: string };
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    chart: ChartSection;
  }
}

const grouped = Joi.object({ column: pathText.required(), step: Joi.valid(...dateStepNames) });

export const spec: CheckedSpec<ChartSection> = {
  schema: {
    kind: Joi.valid('chart').required(),
    table: tableName.required(),
    form: Joi.valid(...chartForms).required(),
    measure: Joi.valid(...figureMeasures).required(),
    column: pathText.when('measure', { is: 'count', then: Joi.forbidden(), otherwise: Joi.required() }),
    by: grouped.required(),
    series: grouped,
    where: rowFilter.required(),
    follows: id,
    smallestGroup: Joi.number().integer().min(2).max(1_000_000),
    line: Joi.object({ at: Joi.number().required(), label: label.min(1).required() }),
  },
  asks: ({ table, measure, column, by, series, where }) => [
    {
      table,
      shows: [...new Set([by.column, ...(series ? [series.column] : []), ...(column === undefined ? [] : [column])])],
      sorts: [],
      reckons: column !== undefined && measure !== 'distinct' ? [column] : [],
      where: where === 'every row' ? [] : [where],
    },
  ],
  renamed: (section, names) => {
    const { table, column, by, series, where } = section;
    return {
      ...section,
      table: names.table(table),
      ...(column === undefined ? {} : { column: names.path(table, column) }),
      by: { ...by, column: names.path(table, by.column) },
      ...(series ? { series: { ...series, column: names.path(table, series.column) } } : {}),
      where: where === 'every row' ? where : names.condition(table, where),
    };
  },
  findings: (section, page, catalogue) => [
    ...followedGone(page, section),
    ...unfitMeasure(page, section, catalogue),
    ...[section.by, ...(section.series ? [section.series] : [])].flatMap(({ column, step }) => {
      const type = step === undefined ? undefined : columnAt(catalogue, section.table, column)?.type;
      return type === undefined || type === 'date' || type === 'date and time'
        ? []
        : [
            unfit(
              page,
              section,
              `step/${column}`,
              `puts ${column} in groups by ${step}, and it is ${type}`,
              'Choose a date, or take the step off.',
            ),
          ];
    }),
  ],
};
