import type { OnPage } from '../../core/definition/section-kinds';
import Joi from 'joi';
import type { Condition } from '../../core/condition/tree';
import { rowFilter } from '../../core/definition/access-schema';
import type { RowFilter } from '../../core/definition/definition';
import { figureMeasures, type FigureMeasure } from '../../core/definition/figure-measures';
import { id, label, tableName } from '../../core/definition/name-schema';
import { pathText } from '../../core/definition/section-schema';
import type { CheckedSpec } from '../../core/check/section-findings';
import { unfitMeasure } from '../unfit-numbers';
import { followedGone } from '../followed';

/** One number over what the person sees of a table. */
export interface FigureSection extends OnPage {
  kind: 'figure';
  table: string;
  measure: FigureMeasure;
  /** Of which column, as a path in its text form; a count needs none. */
  column?: string;
  where: RowFilter;
  /** Other records that the number is held against, and what they are called: "last month". */
  against?: { label: string; where: RowFilter };
  /** The list of the same page whose records it is reckoned of, with its filters and search. */
  follows?: string;
  /** Fewer records than these are told as too few. */
  smallestGroup?: number;
}

declare module '../../core/definition/section-kinds' {
  interface SectionKinds {
    figure: FigureSection;
  }
}

const filters = ({ where, against }: Pick<FigureSection, 'where' | 'against'>): Condition[] =>
  [where, against?.where].filter((each): each is Condition => each !== undefined && each !== 'every row');

export const spec: CheckedSpec<FigureSection> = {
  schema: {
    kind: Joi.valid('figure').required(),
    table: tableName.required(),
    measure: Joi.valid(...figureMeasures).required(),
    column: pathText.when('measure', { is: 'count', then: Joi.forbidden(), otherwise: Joi.required() }),
    where: rowFilter.required(),
    against: Joi.object({ label: label.min(1).required(), where: rowFilter.required() }),
    follows: id,
    smallestGroup: Joi.number().integer().min(2).max(1_000_000),
  },
  asks: ({ table, measure, column, where, against }) => [
    {
      table,
      shows: column === undefined ? [] : [column],
      sorts: [],
      reckons: column !== undefined && measure !== 'distinct' ? [column] : [],
      where: filters({ where, against }),
    },
  ],
  renamed: (section, names) => {
    const { table, column, where, against } = section;
    const filter = (each: RowFilter) => (each === 'every row' ? each : names.condition(table, each));
    return {
      ...section,
      table: names.table(table),
      ...(column === undefined ? {} : { column: names.path(table, column) }),
      where: filter(where),
      ...(against ? { against: { ...against, where: filter(against.where) } } : {}),
    };
  },
  findings: (section, page, catalogue) => [...followedGone(page, section), ...unfitMeasure(page, section, catalogue)],
};
