import Joi from 'joi';
import { isOfAudience } from '../../core/access/audience';
import type { BesideSheet } from '../../core/definition/hung';
import type { Sheet } from '../../core/definition/definition';
import { sheetFor } from '../../core/definition/sheet';
import { columnInfo } from '../columns/column-answers';
import { columnInfos, type ColumnInfo } from '../columns/column-info';
import type { PlacedVisit } from '../gate/gate';
import { form, listOf, said, yesNo } from '../http/answers';
import { hangsOn, hangTold, linkedLists, linkedTold, type LinkedTold } from './linked-lists';

/** Columns of a sheet that stand under a heading; `across` of them beside each other where there is room. */
export interface GroupTold {
  id: string;
  title: string;
  columns: string[];
  across: 1 | 2;
}

/** How a record of a section looks to a person: what of its sheet is for them, and they see. */
export interface SheetTold {
  /** All its columns. */
  sheet: ColumnInfo[];
  /** How many columns outside groups stand beside each other where there is room. */
  across: 1 | 2;
  /** Groups with the paths of their columns, below the columns outside groups. */
  groups: GroupTold[];
  /** What points at its records. */
  linked: LinkedTold[];
  /** What members hang on a record. */
  hangs: BesideSheet[];
  /** Whether it can be said beside its facts that one is wrong. */
  doubts: boolean;
}

const beside = Joi.valid(1, 2);

export const sheetAnswer = {
  sheet: listOf(columnInfo),
  across: beside,
  groups: listOf(form<GroupTold>({ id: said, title: said, columns: listOf(said), across: beside })),
  linked: linkedTold,
  hangs: hangTold,
  doubts: yesNo,
};

/** A sheet as it is for this person; null where its table has none. */
export const ownSheet = (visit: PlacedVisit, sheet: Sheet | null): Sheet | null =>
  sheet && sheetFor(sheet, (audience) => isOfAudience(audience, visit));

/**
 * What a person is told of a sheet; `there` is where its table is asked, null while that can't be reached. Without a
 * sheet a record shows `columns`.
 */
export async function sheetTold(
  visit: PlacedVisit,
  there: PlacedVisit | null,
  table: string,
  sheet: Sheet | null,
  columns: string[],
): Promise<SheetTold> {
  const own = ownSheet(visit, sheet);
  if (!there) return { sheet: [], across: 1, groups: [], linked: [], hangs: [], doubts: false };
  const seen = await columnInfos(there, table, own?.columns ?? columns);
  const groups = (own?.groups ?? []).map((group): GroupTold => ({
    id: group.id,
    title: group.title,
    columns: group.columns.filter((path) => seen.some((column) => column.path === path)),
    across: group.across ?? 1,
  }));
  const hangs = hangsOn(there, table, own);
  return {
    sheet: seen,
    across: own?.across ?? 1,
    // A heading over nothing would tell that there is something.
    groups: groups.filter((group) => group.columns.length > 0),
    linked: await linkedLists(there, table, own),
    hangs,
    doubts: own?.doubts === true && hangs.includes('comments'),
  };
}
