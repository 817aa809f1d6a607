import type { Finding } from '../core/check/finding';
import type { Page } from '../core/definition/definition';
import { fitsMeasure, type FigureMeasure } from '../core/definition/figure-measures';
import { readPath } from '../core/definition/path';
import type { OnPage } from '../core/definition/section-kinds';
import { findTable, isPathProblem, resolvePath, type Catalogue, type Column } from '../core/table/catalogue';

interface Reckoning extends OnPage {
  table: string;
  measure: FigureMeasure;
  column?: string;
}

/** The column that a path leads to; null where it leads to none, which other findings say. */
export function columnAt(catalogue: Catalogue, name: string, text: string): Column | null {
  const table = findTable(catalogue, name);
  const found = table && resolvePath(catalogue, table, readPath(text) ?? [text]);
  return found && !isPathProblem(found) ? found.column : null;
}

/** A finding about a section whose numbers the database would refuse. */
export const unfit = (page: Page, { id, title }: OnPage, what: string, says: string, mend: string): Finding => ({
  id: `section-numbers/${page.id}/${id}/${what}`,
  kind: 'section does not work',
  severity: 'broken',
  place: { stage: 'pages', page: page.id },
  title: `${title ?? id} on ${page.title} ${says}`,
  why: `So it says that it can't be reckoned, to everybody. ${mend}`,
});

/** A measure that its column has none of, as the sum of words; the column's type may have changed since. */
export function unfitMeasure(page: Page, section: Reckoning, catalogue: Catalogue): Finding[] {
  const column = section.column === undefined ? null : columnAt(catalogue, section.table, section.column);
  return column && !fitsMeasure(section.measure, column)
    ? [
        unfit(
          page,
          section,
          'measure',
          `reckons the ${section.measure} of ${section.column}, which is ${column.type}`,
          'Reckon of another column, or something else of it.',
        ),
      ]
    : [];
}
