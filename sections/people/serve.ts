import Joi from 'joi';
import { tableRights } from '../../core/access/rights';
import { lookedAfterColumns } from '../../core/access/steward-grants';
import { visibleColumns } from '../../core/access/view';
import { stewardActs, type StewardAct } from '../../core/definition/steward';
import { printPath } from '../../core/definition/path';
import { nameColumns } from '../../core/definition/name-columns';
import { findTable, plainLabel } from '../../core/table/catalogue';
import { columnInfo } from '../../server/columns/column-answers';
import { columnInfos, inNew, type ColumnInfo } from '../../server/columns/column-info';
import { at, viewSql } from '../../server/gate/gate';
import { listOf, said, saidOrNull } from '../../server/http/answers';
import type { SectionServe } from '../serve';
import type { PeopleSection } from './spec';

/** Those who are looked after, as far as can be told before they are listed; without columns for anybody else. */
export interface PeopleTold {
  steward: string;
  table: string;
  label: string;
  columns: ColumnInfo[];
  /** What is shown of one of them. */
  sheet: ColumnInfo[];
  /** The column that says by which address they come in. */
  email: string | null;
  /** What a new one is asked for; null where nobody is added. */
  fills: ColumnInfo[] | null;
  may: StewardAct[];
}

declare module '../serve' {
  interface SectionTold {
    people: PeopleTold;
  }
}

const nobody = (steward: string): PeopleTold => ({
  steward,
  table: '',
  label: '',
  columns: [],
  sheet: [],
  email: null,
  fills: null,
  may: [],
});

const paths = (columns: readonly string[]) => columns.map((column) => printPath([column]));

export const serve: SectionServe<PeopleSection, PeopleTold> = {
  tell: async (asked, { steward: id }) => {
    const steward = asked.definition.stewards?.find((each) => each.id === id);
    if (steward?.does !== 'look after people' || !asked.person.roles.includes(steward.role)) return nobody(id);
    const visit = await at({ ...asked, asSteward: id }, steward.roster);
    const table = findTable(visit.catalogue, steward.roster);
    const roster = visit.definition.rosters.find((each) => each.table === steward.roster);
    const sql = viewSql(visit);
    const view = table && sql.view(table);
    if (!roster || !view || view.lenses.length === 0) return nobody(id);
    const visible = new Set(visibleColumns(view));
    const { fills } = tableRights(view);
    const seen = lookedAfterColumns(roster, steward).filter((column) => visible.has(column));
    const listed = seen.filter((column) => [...nameColumns(roster), roster.email, ...steward.sees].includes(column));
    return {
      steward: id,
      table: table.name,
      label: visit.definition.tables[table.name]?.label ?? plainLabel(table.name),
      columns: await columnInfos(visit, table.name, paths(listed)),
      sheet: await columnInfos(visit, table.name, paths(seen)),
      email: roster.email,
      fills:
        fills &&
        inNew(
          visit,
          sql,
          table,
          await columnInfos(visit, table.name, paths([...fills].filter((column) => visible.has(column)))),
        ),
      may: [...steward.may],
    };
  },
  told: {
    steward: said,
    table: said,
    label: said,
    columns: listOf(columnInfo),
    sheet: listOf(columnInfo),
    email: saidOrNull,
    fills: listOf(columnInfo).allow(null),
    may: listOf(Joi.valid(...stewardActs)),
  },
};
