import { readPath } from '../../core/definition/path';
import { findTable, plainLabel } from '../../core/table/catalogue';
import type { Value } from '../../core/table/value';
import { columnInfo } from '../../server/columns/column-answers';
import { columnInfos, type ColumnInfo } from '../../server/columns/column-info';
import { at, figures, NotFound, viewSql, type PlacedVisit } from '../../server/gate/gate';
import Joi from 'joi';
import { saidOrNull, said, yesNo } from '../../server/http/answers';
import { isSourceAway } from '../../server/sources/connection-problem';
import type { FigureTaken, SectionServe } from '../serve';
import { figureMeasures, type FigureMeasure, type FigureSection } from './spec';

/** A figure as a person gets it. One over a table or a column of which they see nothing keeps its place alone. */
export interface FigureTold {
  label: string;
  measure: FigureMeasure;
  /** The column that it is reckoned of; null for a count. */
  column: ColumnInfo | null;
  /** What the records are called that it is held against; null where there are none. */
  against: string | null;
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

async function infoOf(visit: PlacedVisit, { table, column }: FigureSection): Promise<ColumnInfo | null> {
  if (column === undefined) return null;
  return (await columnInfos(visit, table, [column]))[0] ?? null;
}

/** The number over some of the records; null where there are too few to tell it. */
async function numberOf(
  visit: PlacedVisit,
  { table, measure, column, smallestGroup }: FigureSection,
  where: FigureSection['where'],
): Promise<FigureTaken['taken']> {
  const path = column === undefined ? undefined : (readPath(column) ?? [column]);
  const { groups, tooFew } = await figures(visit.source, visit, table, {
    measures: [{ what: measure, ...(path ? { path } : {}) }],
    by: [],
    where: where === 'every row' ? [] : [where],
    ...(smallestGroup === undefined ? {} : { smallestGroup }),
  });
  const [group] = groups;
  if (tooFew) return { tooFew: true };
  return { number: (group?.values[0] ?? null) as Value, leftOut: group?.leftOut[0] ?? 0 };
}

export const serve: SectionServe<FigureSection, FigureTold> = {
  tell: async (visit, section) => {
    const { table: name, measure, column, against } = section;
    const told = {
      label: visit.definition.tables[name]?.label ?? plainLabel(name),
      measure,
      against: against?.label ?? null,
    };
    try {
      const there = await at(visit, name);
      const table = findTable(there.catalogue, name);
      const isSeen = table !== undefined && viewSql(there).view(table).lenses.length > 0;
      const info = isSeen ? await infoOf(there, section) : null;
      return { ...told, column: info, open: isSeen && (column === undefined || info !== null) };
    } catch (error) {
      if (!isSourceAway(error)) throw error;
      return { ...told, column: null, open: true, away: true };
    }
  },
  told: {
    label: said,
    measure: Joi.valid(...figureMeasures),
    column: columnInfo.allow(null),
    against: saidOrNull,
    open: yesNo,
    away: yesNo.optional(),
  },
  figure: async (asked, section) => {
    const visit = await at(asked, section.table);
    const table = findTable(visit.catalogue, section.table);
    if (!table || viewSql(visit).view(table).lenses.length === 0) throw new NotFound('figure');
    return {
      taken: await numberOf(visit, section, section.where),
      against: section.against ? await numberOf(visit, section, section.against.where) : null,
    };
  },
};
