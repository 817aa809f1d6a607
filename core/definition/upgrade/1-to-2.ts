import { freeId } from '../free-id';
import type { OldDocument } from './old-document';

/**
 * Format 2 gives sections ids and keeps how a record is shown by its table: the first list of a table that names
 * columns for its records gives the table its sheet, another that names others has one of its own. A page's roles
 * become its audience.
 */
export function from1to2(document: OldDocument): OldDocument {
  const { pages, ...rest } = document;
  const sheets: Record<string, { columns: unknown }> = {};
  return {
    ...rest,
    sheets,
    pages: Array.isArray(pages) ? pages.map((page: unknown) => (isPart(page) ? pageOf(page, sheets) : page)) : pages,
  };
}

function pageOf({ roles, sections, ...rest }: OldDocument, sheets: Record<string, { columns: unknown }>): OldDocument {
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
          if (!Object.hasOwn(sheets, section.table)) sheets[section.table] = sheet;
          const isOther = JSON.stringify(sheets[section.table]) !== JSON.stringify(sheet);
          return { id, ...list, ...(isOther ? { sheet } : {}) };
        })
      : sections,
  };
}

function isPart(value: unknown): value is OldDocument {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
