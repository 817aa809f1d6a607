import Joi from 'joi';
import { Op } from 'sequelize';
import { printPath } from '../../core/definition/path';
import { columnInfo } from '../columns/column-answers';
import { columnInfos, type ColumnInfo } from '../columns/column-info';
import { namesOf } from '../comments/hung-on';
import { at, past, type PlacedVisit, type ToldChange, type ToldValue } from '../gate/gate';
import { cell, form, listOf, moment, said, saidOrNull, wholeOrNull, yesNo } from '../http/answers';
import { KeptChange } from '../store/history-model';
import type { PortalVisit } from '../visits/member-visit';
import { hashOfRecord } from '../leaving/keep-history';

/** One change of a record as it is told. */
export interface HistoryLine {
  at: string;
  made: KeptChange['made'];
  /** What whoever did it is called, where this person sees that; null for others. */
  name: string | null;
  mine: boolean;
  by: KeptChange['byKind'];
  /** What services did it are called. */
  role: string | null;
  /** The action or the form by which it was done, as it is called now. */
  through: string | null;
  brought: boolean;
  /** Whether nobody knows whether it was kept. */
  unsure: boolean;
  /** Whether what stood there was erased. */
  erased: boolean;
  changes: { column: ColumnInfo; was?: ToldValue; now?: ToldValue }[];
}

/** A page of a record's history, the newest first. */
export interface History {
  lines: HistoryLine[];
  /** So many lines stand before the next page; null at the end. Ids would tell how much is kept of others. */
  next: number | null;
}

const toldValue = form<Required<ToldValue>>({ value: cell, title: said.optional() });

export const historyTold = form<History>({
  lines: listOf(
    form<HistoryLine>({
      at: moment,
      made: Joi.valid('made', 'changed', 'deleted'),
      name: saidOrNull,
      mine: yesNo,
      by: Joi.valid('member', 'visitor', 'service', 'builder'),
      role: saidOrNull,
      through: saidOrNull,
      brought: yesNo,
      unsure: yesNo,
      erased: yesNo,
      changes: listOf(
        form<Required<HistoryLine['changes'][number]>>({
          column: columnInfo,
          was: toldValue.optional(),
          now: toldValue.optional(),
        }),
      ),
    }),
  ),
  next: wholeOrNull,
});

const pageSize = 30;
const readAtOnce = 60;
const mostLooked = 3000;
/** A write in another place is over after so long, in milliseconds. */
const heldFor = 120_000;

/**
 * What changed in a record, as far as this person may read it; changes of which nothing is told are left out whole.
 * NotFound where they may not.
 */
export async function historyOf(asked: PortalVisit, tableName: string, id: string, skip: number) {
  const visit = await at(asked, tableName);
  const { id: own, tells } = await past(visit, tableName, id);
  const isBuilder = visit.person.kind === 'builder';
  const found: { kept: KeptChange; told: ToldChange[] }[] = [];
  let from = Number.MAX_SAFE_INTEGER;
  // What is older than so many lines that are not theirs to read is not looked for.
  let left = mostLooked;
  for (let isOver = false; !isOver && found.length <= skip + pageSize && left > 0; left -= readAtOnce) {
    const kept = await KeptChange.findAll({
      where: {
        portalId: asked.portalId,
        tableName,
        recordHash: hashOfRecord(own),
        id: { [Op.lt]: from },
        [Op.or]: [{ state: 'kept' }, { at: { [Op.lt]: new Date(Date.now() - heldFor) } }],
      },
      order: [['id', 'DESC']],
      limit: readAtOnce,
    });
    // Before a record was deleted its key was another's, of whom the new one's reader need not know.
    const end = isBuilder ? -1 : kept.findIndex(({ made }) => made === 'deleted');
    const these = end < 0 ? kept : kept.slice(0, end);
    isOver = end >= 0 || kept.length < readAtOnce;
    from = kept.at(-1)?.id ?? 0;
    const told = await tells(these.map(({ was, now }) => ({ was: readRow(was), now: readRow(now) })));
    these.forEach((each, i) => {
      const isErased = isBuilder && each.erasedAt !== null;
      if (told[i]!.length > 0 || isErased) found.push({ kept: each, told: told[i]! });
    });
  }
  const page = found.slice(skip, skip + pageSize);
  const lines = await linesOf(visit, asked.portalId, page);
  return { lines, next: found.length > skip + pageSize ? skip + pageSize : null } satisfies History;
}

const readRow = (text: string | null) => (text === null ? null : (JSON.parse(text) as Record<string, unknown>));

async function linesOf(
  visit: PlacedVisit,
  portalId: number,
  page: { kept: KeptChange; told: ToldChange[] }[],
): Promise<HistoryLine[]> {
  const { definition, person } = visit;
  const isBuilder = person.kind === 'builder';
  const tableName = page[0]?.kept.tableName ?? '';
  const members = page.flatMap(({ kept: { memberId } }) => (memberId === null ? [] : [Number(memberId)]));
  const names = await namesOf(visit, portalId, members);
  const columns = [...new Set(page.flatMap(({ told }) => told.map(({ column }) => column)))];
  const infos = await columnInfos(
    visit,
    tableName,
    columns.map((column) => printPath([column])),
  );
  const infoOf = (column: string) => infos.find(({ path }) => path === printPath([column]));
  return page.map(({ kept, told }) => ({
    at: kept.at.toISOString(),
    made: kept.made,
    // What builders and keys are called is the bench's business.
    name: kept.memberId !== null ? (names.get(Number(kept.memberId)) ?? null) : isBuilder ? kept.name : null,
    mine: person.kind === 'member' && person.id !== null && Number(kept.memberId) === person.id,
    by: kept.byKind,
    role: definition.roles.find(({ id }) => id === kept.role)?.name ?? null,
    through:
      definition.actions?.find(({ id }) => id === kept.action)?.name ??
      definition.forms?.find(({ id }) => id === kept.form)?.title ??
      null,
    brought: kept.brought,
    unsure: kept.state === 'held',
    erased: kept.erasedAt !== null,
    changes: told.flatMap(({ column, ...sides }) => {
      const info = infoOf(column);
      return info ? [{ column: info, ...sides }] : [];
    }),
  }));
}

/** Erases what stood in a record before now and is kept of it; who changed it and when stays. */
export async function eraseHistory(portalId: number, tableName: string, id: string): Promise<number> {
  const where = { portalId, tableName, recordHash: hashOfRecord(id), erasedAt: null };
  const [erased] = await KeptChange.update({ was: null, now: null, erasedAt: new Date() }, { where });
  return erased;
}
