import { askable } from '../../core/access/ask';
import { opennessCases } from '../../core/access/view';
import { columnLabel, type ListSection, type Page } from '../../core/definition/definition';
import { readPath } from '../../core/definition/path';
import { maskAsked, type Mask } from '../../core/mask/mask';
import { findTable, isPathProblem, plainLabel, resolvePath, type ColumnType } from '../../core/table/catalogue';
import { isSortable } from '../gate/order';
import { ViewSql, type Visit } from '../gate/view-sql';

/** What the browser needs to show, filter and edit one column: nothing of columns that the person doesn't see. */
export interface ColumnInfo {
  path: string;
  label: string;
  type: ColumnType;
  nullable: boolean;
  maxLength?: number;
  scale?: number;
  choices?: string[];
  /** What filter and sort go by: the value; the number or text that the mask shows, or only whether that is the same; or nothing. */
  asked: 'value' | 'number' | 'text' | 'same' | null;
  sortable: boolean;
  /** True when this person never sees it whole. */
  veiled: boolean;
}

export interface SectionInfo {
  table: string;
  label: string;
  columns: ColumnInfo[];
  sort: ListSection['sort'];
  record: ColumnInfo[];
}

export interface PageInfo {
  id: string;
  title: string;
  intro: string;
  sections: SectionInfo[];
}

/** The pages that are for one of the person's roles. */
export function pagesOf(visit: Visit): Page[] {
  return visit.definition.pages.filter((page) => page.roles.some((role) => visit.person.roles.includes(role)));
}

/** A page as the person gets it. A section on a table of which they see nothing keeps its place, without columns. */
export function pageInfo(visit: Visit, page: Page): PageInfo {
  const view = new ViewSql(visit);
  return {
    id: page.id,
    title: page.title,
    intro: page.intro,
    sections: page.sections.map((section) => ({
      table: section.table,
      label: visit.definition.tables[section.table]?.label ?? plainLabel(section.table),
      columns: columnInfos(visit, view, section.table, section.columns),
      sort: section.sort,
      record: columnInfos(visit, view, section.table, section.record),
    })),
  };
}

function askedByMask(mask: Mask): ColumnInfo['asked'] {
  const asked = maskAsked(mask);
  return asked && (asked.equalityOnly ? 'same' : asked.type === 'text' ? 'text' : 'number');
}

export function columnInfos(visit: Visit, view: ViewSql, tableName: string, paths: string[]): ColumnInfo[] {
  const table = findTable(visit.catalogue, tableName);
  if (!table) return [];
  return paths.flatMap((text): ColumnInfo[] => {
    const path = readPath(text);
    const found = path && resolvePath(visit.catalogue, table, path);
    if (!path || !found || isPathProblem(found)) return [];
    const { column } = found;
    const cases = opennessCases(view.view(found.table), column.name);
    if (cases.length === 0) return [];
    const asking = resolvePath(view.askCatalogue(), findTable(view.askCatalogue(), tableName)!, path);
    const how = isPathProblem(asking) ? null : askable(view.view(found.table), column.name);
    const own = columnLabel(visit.definition, found.table.name, column.name, plainLabel);
    return [{
      path: text,
      label: path.length === 1 ? own : `${plainLabel(path.at(-2)!)} ${own.charAt(0).toLowerCase()}${own.slice(1)}`,
      type: column.type,
      nullable: column.nullable,
      maxLength: column.maxLength,
      scale: column.scale,
      choices: cases.some((each) => each.openness.level === 'shown') ? column.choices : undefined,
      asked: how && (how.by === 'value' ? 'value' : askedByMask(how.mask)),
      sortable: !isPathProblem(asking) && isSortable(asking.column),
      veiled: !cases.some((each) => each.openness.level === 'shown'),
    }];
  });
}
