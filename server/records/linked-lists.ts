import Joi from 'joi';
import { tableRights } from '../../core/access/rights';
import { figureMeasures, type FigureMeasure } from '../../core/definition/figure-measures';
import { besideSheet, type BesideSheet } from '../../core/definition/hung';
import type { Sheet } from '../../core/definition/definition';
import { printPath } from '../../core/definition/path';
import { columnTypes, findColumn, findTable, plainLabel, type ColumnType } from '../../core/table/catalogue';
import { columnInfo } from '../columns/column-answers';
import { columnInfos, type ColumnInfo } from '../columns/column-info';
import { at, viewSql, type PlacedVisit } from '../gate/gate';
import { form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { offersWrites } from './offered';

/** Records that point at a record, as a list on its sheet. */
export interface LinkedTold {
  /** The to-many relation by which they are asked for. */
  relation: string;
  table: string;
  label: string;
  columns: ColumnInfo[];
  /** The column that is filled in one that is made here; null where none may be. */
  adds: string | null;
  /** Whether they stand as cards. */
  asCards: boolean;
  /** The column by which all that point at a record are asked for with its number; null where they can't be. */
  pointing: { path: string; type: ColumnType } | null;
  /** Numbers over all of them. */
  figures: { measure: FigureMeasure; column: ColumnInfo }[];
}

export const linkedTold = listOf(
  form<LinkedTold>({
    relation: said,
    table: said,
    label: said,
    columns: listOf(columnInfo),
    adds: saidOrNull,
    asCards: yesNo,
    pointing: form<NonNullable<LinkedTold['pointing']>>({ path: said, type: Joi.valid(...columnTypes) }).allow(null),
    figures: listOf(form<LinkedTold['figures'][number]>({ measure: Joi.valid(...figureMeasures), column: columnInfo })),
  }),
);

export const hangTold = listOf(Joi.valid(...besideSheet));

/** What stands beside records and is on their sheet for this person. */
export function hangsOn(visit: PlacedVisit, tableName: string, sheet: Sheet | null): BesideSheet[] {
  const table = findTable(visit.catalogue, tableName);
  if (!table) return [];
  const rights = tableRights(viewSql(visit).view(table));
  const reads = (what: BesideSheet) => (what === 'history' ? rights.history : rights.hangs(what));
  return besideSheet.filter((what) => sheet?.[what] !== false && reads(what));
}

/** The linked lists of a sheet that this person may ask for; those of which they see nothing are left out. */
export async function linkedLists(visit: PlacedVisit, tableName: string, sheet: Sheet | null): Promise<LinkedTold[]> {
  const asking = findTable(viewSql(visit).askCatalogue(), tableName);
  const told = (sheet?.linked ?? []).map(async ({ table, column, columns, ...more }): Promise<LinkedTold[]> => {
    const many = asking?.many?.find((each) => each.table === table && printPath([each.column]) === column);
    if (!many) return [];
    const there = await at(visit, table);
    const child = findTable(there.catalogue, table);
    const infos = await columnInfos(there, table, columns);
    const reckoned = await columnInfos(
      there,
      table,
      (more.figures ?? []).map((figure) => figure.column),
    );
    if (!child || infos.length === 0) return [];
    const { fills } = tableRights(viewSql(there).view(child));
    // A new one points at this record by its number, which is all that is known of it here.
    const byKey = asking!.key.length === 1 && asking!.key[0] === many.targetColumn;
    return [
      {
        relation: many.name,
        table,
        label: visit.definition.tables[table]?.label ?? plainLabel(table),
        columns: infos,
        adds: byKey && offersWrites(visit) && fills?.has(many.column) ? column : null,
        asCards: more.as === 'cards',
        pointing: byKey ? { path: column, type: findColumn(child, many.column)!.type } : null,
        // What is masked is no number of theirs.
        figures: (more.figures ?? []).flatMap(({ measure, column: of }) => {
          const info = reckoned.find(({ path }) => path === of);
          return byKey && info?.asked === 'value' ? [{ measure, column: info }] : [];
        }),
      },
    ];
  });
  return (await Promise.all(told)).flat();
}
