import { tableRights } from '../../core/access/rights';
import { findTable, plainLabel } from '../../core/table/catalogue';
import { at, viewSql } from '../../server/gate/gate';
import { said, yesNo } from '../../server/http/answers';
import type { SectionServe } from '../serve';
import type { BringSection } from './spec';

/** The table that is kept; none for anybody else. */
export interface BringTold {
  steward: string;
  table: string;
  label: string;
  open: boolean;
  /** Whether what is seen of it may be taken out. */
  exports: boolean;
}

declare module '../serve' {
  interface SectionTold {
    bring: BringTold;
  }
}

export const serve: SectionServe<BringSection, BringTold> = {
  tell: async (asked, { steward: id }) => {
    const closed = { steward: id, table: '', label: '', open: false, exports: false };
    const steward = asked.definition.stewards?.find((each) => each.id === id);
    if (steward?.does !== 'keep a table' || !asked.person.roles.includes(steward.role)) return closed;
    const visit = await at(asked, steward.table);
    const table = findTable(visit.catalogue, steward.table);
    const rights = table && tableRights(viewSql(visit).view(table));
    if (!rights) return closed;
    return {
      steward: id,
      table: steward.table,
      label: visit.definition.tables[steward.table]?.label ?? plainLabel(steward.table),
      open: rights.fills !== null || rights.changes.size > 0,
      exports: rights.exports,
    };
  },
  told: { steward: said, table: said, label: said, open: yesNo, exports: yesNo },
};
