import { freeId } from '../free-id';
import type { OldDocument } from './old-document';

interface Sheet {
  columns: unknown;
}

/**
 * Format 2 gives sections ids and keeps how a record is shown by its table: the first list of a table that names
 * columns for its records gives the table its sheet, another that names others has one of its own. A page's roles
 * become its audience.
 */
export function from1to2(document: OldDocument): OldDocument {
  const { pages, ...rest } = document;
  // A map, since a table may be called anything.
  const sheets = new Map<string, Sheet>();
  const now = Array.isArray(pages) ? pages.map((page: unknown) => (isPart(page) ? pageOf(page, sheets) : page)) : pages;
  return { ...rest, sheets: Object.fromEntries(sheets), pages: now };
}

function pageOf({ roles, sections, ...rest }: OldDocument, sheets: Map<string, Sheet>): OldDocument {
  const taken: { id: string }[] = [];
  return {
    ...rest,
    audience: { roles },
    sections: Array.isArray(sections)
      ? sections.map((section: unknown) => {
          if (!isPart(section) || typeof section.table !== 'string') return section;
          const { record, ...list } = section;
          const id = freeId(section.table, taken);
          taken.push({ id });
          const sheet = { columns: record };
          const known = sheets.get(section.table);
          if (!known) sheets.set(section.table, sheet);
          const isOther = known !== undefined && JSON.stringify(known) !== JSON.stringify(sheet);
          return { id, ...list, ...(isOther ? { sheet } : {}) };
        })
      : sections,
  };
}

function isPart(value: unknown): value is OldDocument {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
