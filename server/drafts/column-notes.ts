import type { Operation } from 'fast-json-patch';
import type { Sequelize } from 'sequelize';
import type { PortalDefinition } from '../../core/definition/definition';
import { kindOfDrawn, type DrawnColumn } from '../../core/table/drawn';
import { Problem } from '../../core/refusals/problem';
import { Portal } from '../store/models';
import { changeDraft } from './draft';

/** Columns of a table whose meaning is finer than the database can hold. */
export interface Noted {
  portalId: number;
  builderId: number | null;
  table: string;
  columns: DrawnColumn[];
  /** By column and choice. */
  colours: Record<string, Record<string, number>>;
}

/** Notes in the draft what drawn columns mean, beyond what the database can hold. */
export async function note(
  sequelize: Sequelize,
  { portalId, builderId, table, columns, colours }: Noted,
): Promise<void> {
  for (;;) {
    const portal = await Portal.findByPk(portalId);
    if (!portal) return;
    const patch = notesPatch(JSON.parse(portal.draft) as PortalDefinition, table, columns, colours);
    if (!patch) return;
    try {
      await changeDraft(
        sequelize,
        portalId,
        builderId,
        portal.revision,
        `Note what ${table} holds`,
        patch,
        'no change',
      );
      return;
    } catch (error) {
      // Another builder was faster: noted on what they left.
      if (!(error instanceof Problem && error.type === 'draft-changed')) throw error;
    }
  }
}

function notesPatch(
  draft: PortalDefinition,
  table: string,
  columns: DrawnColumn[],
  marks: Record<string, Record<string, number>>,
): Operation[] | null {
  const known = draft.tables[table]?.columns ?? {};
  const noted = Object.fromEntries(
    columns
      .map((each) => {
        const { kind: _kind, currency: _currency, colours: _colours, ...rest } = known[each.name] ?? {};
        return [
          each.name,
          {
            ...rest,
            ...(kindOfDrawn(each.type) ? { kind: kindOfDrawn(each.type) } : {}),
            ...(each.currency ? { currency: each.currency } : {}),
            ...(marks[each.name] && Object.keys(marks[each.name]!).length > 0 ? { colours: marks[each.name] } : {}),
          },
        ] as const;
      })
      .filter(([, notes]) => Object.keys(notes).length > 0),
  );
  const value = {
    ...draft.tables[table],
    columns: {
      ...Object.fromEntries(Object.entries(known).filter(([name]) => !columns.some((each) => each.name === name))),
      ...noted,
    },
  };
  if (Object.keys(value.columns).length === 0 && Object.keys(known).length === 0) return null;
  return [{ op: 'add', path: `/tables/${table.replaceAll('~', '~0').replaceAll('/', '~1')}`, value }];
}
