import { plainLabel } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { columnInfo } from '../../server/columns/column-answers';
import type { ColumnInfo } from '../../server/columns/column-info';
import { figures, type PlacedVisit } from '../../server/gate/gate';
import Joi from 'joi';
import { figureMeasures, type FigureMeasure } from '../../core/definition/figure-measures';
import { saidOrNull, said, yesNo } from '../../server/http/answers';
import { numberColumns, numbersQuestion, numbersVisit, type Narrowed } from '../../server/records/section-numbers';
import { followedList } from '../followed';
import { followedNow, isFollowedThere } from '../followed-now';
import type { FigureTaken, SectionServe } from '../serve';
import type { ListSection } from '../list/spec';
import type { FigureSection } from './spec';

/** A figure as a person gets it. One over a table or a column of which they see nothing keeps its place alone. */
export interface FigureTold {
  label: string;
  measure: FigureMeasure;
  /** The column that it is reckoned of; null for a count. */
  column: ColumnInfo | null;
  /** What the records are called that it is held against; null where there are none. */
  against: string | null;
  /** The list that it goes with. */
  follows: string | null;
  /** Whether there is something to reckon with, as this person sees the table. */
  open: boolean;
  /** True while the source that holds its records can't be reached. */
  away?: true;
}

declare module '../serve' {
  interface SectionTold {
    figure: FigureTold;
  }
}

/** The number over some of the records. */
async function numberOf(
  visit: PlacedVisit,
  section: FigureSection,
  where: FigureSection['where'],
  list: ListSection | null,
  narrowed: Narrowed,
): Promise<FigureTaken['taken']> {
  const question = await numbersQuestion(visit, section, where, list, narrowed);
  const { groups, tooFew } = await figures(visit.source, visit, section.table, { ...question, by: [] });
  const [group] = groups;
  if (tooFew) return { tooFew: true };
  return { number: (group?.values[0] ?? null) as Value, leftOut: group?.leftOut[0] ?? 0 };
}

export const serve: SectionServe<FigureSection, FigureTold> = {
  tell: async (visit, section, page) => {
    const { table, measure, column, against } = section;
    const { columns, ...rest } = await numberColumns(visit, table, [column]);
    return {
      label: visit.definition.tables[table]?.label ?? plainLabel(table),
      measure,
      against: against?.label ?? null,
      follows: followedList(page, section)?.id ?? null,
      column: columns[0] ?? null,
      ...rest,
      open: rest.open && isFollowedThere(visit, page, section),
    };
  },
  told: {
    label: said,
    measure: Joi.valid(...figureMeasures),
    column: columnInfo.allow(null),
    against: saidOrNull,
    follows: saidOrNull,
    open: yesNo,
    away: yesNo.optional(),
  },
  figure: async (asked, section, page, narrowed) => {
    const visit = await numbersVisit(asked, section.table);
    const list = followedNow(asked, page, section, narrowed.view);
    return {
      taken: await numberOf(visit, section, section.where, list, narrowed),
      against: section.against ? await numberOf(visit, section, section.against.where, list, narrowed) : null,
    };
  },
};
