import { isDeepStrictEqual } from 'node:util';
import Joi from 'joi';
import type { Page } from '../../core/definition/definition';
import { figureMeasures, type FigureMeasure } from '../../core/definition/figure-measures';
import { dateStepNames, type DateStep } from '../../core/dialect/dialect';
import { plainLabel } from '../../core/table/catalogue';
import { columnInfo } from '../../server/columns/column-answers';
import type { ColumnInfo } from '../../server/columns/column-info';
import { form, said, saidOrNull, yesNo } from '../../server/http/answers';
import { numberColumns } from '../../server/records/section-numbers';
import { followedList, listsOf } from '../followed';
import { isFollowedThere } from '../followed-now';
import type { SectionServe } from '../serve';
import { chartNumbers } from './chart-numbers';
import { chartForms, type ChartForm, type ChartSection, type GroupedBy } from './spec';

interface GroupedTold {
  column: ColumnInfo;
  step: DateStep | null;
}

/** A chart as a person gets it. One over a table or a column of which they see nothing keeps its place alone. */
export interface ChartTold {
  label: string;
  form: ChartForm;
  measure: FigureMeasure;
  /** The column that it is reckoned of; null for a count. */
  column: ColumnInfo | null;
  by: GroupedTold | null;
  series: GroupedTold | null;
  line: { at: number; label: string } | null;
  /** The list that it goes with. */
  follows: string | null;
  /** The list of the page in which the records of a group can be found; null where none holds exactly these. */
  opens: string | null;
  open: boolean;
  /** True while the source that holds its records can't be reached. */
  away?: true;
}

declare module '../serve' {
  interface SectionTold {
    chart: ChartTold;
  }
}

/** The list that holds what the chart is drawn of, so that a filter on it finds the records of a group. */
function opensIn(page: Page, section: ChartSection): string | null {
  const followed = followedList(page, section);
  if (followed) return section.where === 'every row' ? followed.id : null;
  return (
    listsOf(page, section.table).find(({ where, tabs }) => !tabs && isDeepStrictEqual(where, section.where))?.id ?? null
  );
}

const told = (grouped: GroupedBy | undefined, column: ColumnInfo | null | undefined): GroupedTold | null =>
  grouped && column ? { column, step: grouped.step ?? null } : null;

const groupedTold = form<GroupedTold>({ column: columnInfo, step: Joi.valid(...dateStepNames, null) }).allow(null);

export const serve: SectionServe<ChartSection, ChartTold> = {
  tell: async (visit, section, page) => {
    const { table, measure, by, series } = section;
    const { columns, ...rest } = await numberColumns(visit, table, [section.column, by.column, series?.column]);
    return {
      label: visit.definition.tables[table]?.label ?? plainLabel(table),
      form: section.form,
      measure,
      column: columns[0] ?? null,
      by: told(by, columns[1]),
      series: told(series, columns[2]),
      line: section.line ?? null,
      follows: followedList(page, section)?.id ?? null,
      opens: opensIn(page, section),
      ...rest,
      open: rest.open && isFollowedThere(visit, page, section),
    };
  },
  told: {
    label: said,
    form: Joi.valid(...chartForms),
    measure: Joi.valid(...figureMeasures),
    column: columnInfo.allow(null),
    by: groupedTold,
    series: groupedTold,
    line: form<{ at: number; label: string }>({ at: Joi.number(), label: said }).allow(null),
    follows: saidOrNull,
    opens: saidOrNull,
    open: yesNo,
    away: yesNo.optional(),
  },
  chart: chartNumbers,
};
