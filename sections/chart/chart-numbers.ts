import type { Page } from '../../core/definition/definition';
import { figures, type FigureAnswer, type PlacedVisit } from '../../server/gate/gate';
import { numbersQuestion, numbersVisit, pathOf, type Narrowed } from '../../server/records/section-numbers';
import { followedNow } from '../followed-now';
import type { ChartSection } from './spec';

/** What is reckoned for a chart, on a page or above a list. */
export type Charted = Pick<
  ChartSection,
  'table' | 'measure' | 'column' | 'by' | 'series' | 'where' | 'follows' | 'smallestGroup'
>;

/** The numbers of a chart, by groups, over what the person sees and the list holds that it goes with. */
export async function chartNumbers(
  asked: PlacedVisit,
  charted: Charted,
  page: Page,
  narrowed: Narrowed,
): Promise<FigureAnswer> {
  const visit = await numbersVisit(asked, charted.table);
  const by = [charted.by, ...(charted.series ? [charted.series] : [])];
  const followed = followedNow(asked, page, charted, narrowed.view);
  return figures(visit.source, visit, charted.table, {
    ...(await numbersQuestion(visit, charted, charted.where, followed, narrowed)),
    by: by.map(({ column, step }) => ({ path: pathOf(column), ...(step ? { step } : {}) })),
  });
}
