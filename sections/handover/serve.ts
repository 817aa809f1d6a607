import { plainLabel } from '../../core/table/catalogue';
import { form, listOf, said, yesNo } from '../../server/http/answers';
import type { SectionServe } from '../serve';
import type { HandOverSection } from './spec';

/** What can be handed over; nothing for anybody else. */
export interface HandOverTold {
  steward: string;
  open: boolean;
  tables: { table: string; label: string }[];
}

declare module '../serve' {
  interface SectionTold {
    handover: HandOverTold;
  }
}

export const serve: SectionServe<HandOverSection, HandOverTold> = {
  tell: ({ definition, person }, { steward: id }) => {
    const steward = definition.stewards?.find((each) => each.id === id);
    const open = steward?.does === 'hand over' && person.roles.includes(steward.role);
    const tables = open ? steward.tables.map(({ table }) => table) : [];
    return Promise.resolve({
      steward: id,
      open,
      tables: tables.map((table) => ({ table, label: definition.tables[table]?.label ?? plainLabel(table) })),
    });
  },
  told: {
    steward: said,
    open: yesNo,
    tables: listOf(form<HandOverTold['tables'][number]>({ table: said, label: said })),
  },
};
