import Joi from 'joi';
import { pagesFor } from '../../core/access/audience';
import { findTable } from '../../core/table/catalogue';
import { NotFound, read, recordId, type OpenRecord, type PlacedVisit } from '../../server/gate/gate';
import { form, listOf, said } from '../../server/http/answers';
import { asOffered } from '../../server/records/offered';
import { openRecord } from '../../server/records/record-answers';
import { reached } from '../reached';
import type { SectionServe } from '../serve';
import type { ButtonsSection, LinkButton } from './spec';

/** A button as a person gets it; of one that does an action, with the record that is theirs. */
export type ToldButton = Omit<LinkButton, 'to'> & {
  to: { page: string } | { address: string } | { action: string; record: OpenRecord };
};

export interface ButtonsTold {
  /** Those that lead somewhere for this person, or that they can press now. */
  buttons: ToldButton[];
}

declare module '../serve' {
  interface SectionTold {
    buttons: ButtonsTold;
  }
}

export const serve: SectionServe<ButtonsSection, ButtonsTold> = {
  tell: async (visit, { buttons }) => {
    const theirs = pagesFor(visit);
    const rows = new Map<string, Promise<OpenRecord | null>>();
    const told: ToldButton[] = [];
    for (const { to, ...button } of buttons) {
      if ('address' in to) told.push({ ...button, to });
      else if ('page' in to) {
        if (theirs.some(({ id }) => id === to.page)) told.push({ ...button, to });
      } else {
        const table = visit.definition.actions?.find(({ id }) => id === to.action)?.table;
        if (table === undefined) continue;
        if (!rows.has(table)) rows.set(table, ownRow(visit, table));
        const record = await rows.get(table)!;
        if (record?.actions.includes(to.action)) told.push({ ...button, to: { action: to.action, record } });
      }
    }
    return { buttons: told };
  },
  told: {
    buttons: listOf(
      form<ToldButton>({
        label: said,
        words: said.optional(),
        to: Joi.alternatives().try(
          form<{ page: string }>({ page: said }),
          form<{ address: string }>({ address: said }),
          form<{ action: string; record: OpenRecord }>({ action: said, record: openRecord }),
        ),
      }),
    ),
  },
};

/** The row of a roster that the person is, as they see it; null where they are none, see none, or it is away. */
async function ownRow(visit: PlacedVisit, table: string): Promise<OpenRecord | null> {
  const row = Object.hasOwn(visit.person.rows, table) ? visit.person.rows[table]! : null;
  const there = row && (await reached(visit, table));
  const key = there && findTable(there.catalogue, table)?.key.map((column) => row[column] ?? null);
  if (!key || key.length === 0 || key.includes(null)) return null;
  try {
    return asOffered(visit, await read(there.source, there, table, recordId(key)));
  } catch (error) {
    if (error instanceof NotFound) return null;
    throw error;
  }
}
