import { Op } from 'sequelize';
import type { HandsOver } from '../../core/definition/steward';
import { Problem } from '../../core/refusals/problem';
import {
  at,
  handOver,
  InvalidValues,
  NotFound,
  page,
  read,
  takeBack,
  type HandedOver,
  type PlacedVisit,
} from '../gate/gate';
import { nameColumns } from '../../core/definition/name-columns';
import { callingTo } from '../people/calling';
import { HandOver, Member, Membership } from '../store/people-models';
import type { PortalVisit } from '../visits/member-visit';

/** So long a hand-over can be taken back. */
const undoneWithin = 24 * 3_600_000;

/** Somebody who may hand records over, at the source where those are. */
export interface AtHandOver {
  visit: PlacedVisit & PortalVisit;
  steward: HandsOver;
}

/** What was handed over, in words' parts. */
interface Told {
  from: string;
  to: string;
  tables: { table: string; records: number }[];
}

/** What became of taking it back. */
interface Undone {
  at: string;
  back: number;
  left: { table: string; id: string; why: string }[];
}

/** A hand-over as whoever did it sees it. */
export interface HandOverInfo extends Told {
  id: number;
  at: string;
  /** Until when it can be taken back; null where it was, or it is too late. */
  until: string | null;
  undone: Undone | null;
}

/** A person to choose. */
export interface Choice {
  id: string;
  name: string;
}

/** Throws NotFound where the person hands nothing over by this. */
export async function atHandOver(asked: PortalVisit, id: string): Promise<AtHandOver> {
  const steward = asked.definition.stewards?.find((each) => each.id === id);
  if (steward?.does !== 'hand over' || !asked.person.roles.includes(steward.role)) throw new NotFound('page');
  return { visit: await at(asked, steward.roster), steward };
}

/** Those of the slice whom the person sees, by name. */
export async function choices({ visit, steward }: AtHandOver, search: string): Promise<Choice[]> {
  const columns = namesOf({ visit, steward }).map((column) => [column]);
  const found = await page(visit.source, visit, steward.roster, {
    columns,
    sort: [{ path: columns[0]!, descending: false }],
    where: steward.where ? [steward.where] : [],
    search,
    after: null,
    before: null,
    size: 50,
  });
  return found.records.flatMap(({ id, values }) =>
    id === null ? [] : [{ id, name: nameFrom(values, columns.flat()) }],
  );
}

const nameFrom = (values: Record<string, unknown>, columns: readonly string[]): string =>
  columns
    .map((column) => String(values[column] ?? '').trim())
    .filter((part) => part !== '')
    .join(' ');

function namesOf({ visit, steward }: AtHandOver): string[] {
  const roster = visit.definition.rosters.find(({ table }) => table === steward.roster);
  if (!roster) throw new NotFound('page');
  return nameColumns(roster);
}

async function nameOf(at: AtHandOver, id: string, field: string): Promise<string> {
  const columns = namesOf(at);
  const { visit, steward } = at;
  try {
    const paths = columns.map((column) => [column]);
    return nameFrom((await read(visit.source, visit, steward.roster, id, paths)).values, columns);
  } catch (error) {
    if (error instanceof NotFound) throw new InvalidValues({ [field]: 'Choose somebody from the list.' });
    throw error;
  }
}

/** Records go to nobody who can't come in to work on them. */
async function refuseShutOut({ visit, steward }: AtHandOver, id: string): Promise<void> {
  const where = { portalId: visit.portalId, rosterTable: steward.roster, rowKey: id };
  const membership = await Membership.findOne({ where });
  const member = membership && (await Member.findByPk(membership.memberId));
  if (member?.suspended) throw new InvalidValues({ to: 'They are suspended, so nobody would work on it.' });
}

/** Hands all over that can be, keeps what was done so that it can be taken back, and says it. */
export async function doHandOver(at: AtHandOver, from: string, to: string): Promise<HandOverInfo> {
  const { visit, steward } = at;
  const said = { from: await nameOf(at, from, 'from'), to: await nameOf(at, to, 'to') };
  await refuseShutOut(at, to);
  let kept: HandOver | null = null;
  try {
    await handOver(visit.source, visit, steward, from, to, async (records) => {
      if (records.length === 0)
        throw new Problem(409, 'nothing', `${said.from} has nothing that could be handed over.`);
      const told: Told = { ...said, tables: countedByTable(records) };
      // Kept before the records are: what was done and can't be taken back would be worse than the other way round.
      kept = await HandOver.create({
        portalId: visit.portalId,
        memberId: visit.person.id!,
        steward: steward.id,
        told: JSON.stringify(told),
        records: JSON.stringify(records),
        at: new Date(),
      });
    });
  } catch (error) {
    // Whether records were kept may be unknown; of those that weren't none is found as it would be.
    if (error instanceof Problem) await (kept as HandOver | null)?.destroy();
    throw error;
  }
  return infoOf(kept!);
}

function countedByTable(records: readonly HandedOver[]): Told['tables'] {
  const counts = new Map<string, number>();
  for (const { table } of records) counts.set(table, (counts.get(table) ?? 0) + 1);
  return [...counts].map(([table, number]) => ({ table, records: number }));
}

/** What somebody handed over within a day, the last first. */
export async function ownHandOvers({ visit, steward }: AtHandOver): Promise<HandOverInfo[]> {
  const found = await HandOver.findAll({
    where: {
      portalId: visit.portalId,
      memberId: visit.person.id ?? 0,
      steward: steward.id,
      at: { [Op.gt]: new Date(Date.now() - undoneWithin) },
    },
    order: [['id', 'DESC']],
    limit: 20,
  });
  const { definition, catalogue, person } = visit;
  const sight = person.withoutSight ? { withoutSight: true as const } : {};
  const { name } = await callingTo({ definition, catalogue, ...sight }, visit.portalId);
  return found.map(infoOf).map((info) => ({ ...info, from: name(info.from), to: name(info.to) }));
}

function infoOf({ id, at, told, undone }: HandOver): HandOverInfo {
  const until = new Date(at.getTime() + undoneWithin);
  return {
    id,
    at: at.toISOString(),
    ...(JSON.parse(told) as Told),
    until: undone === null && until > new Date() ? until.toISOString() : null,
    undone: undone ? (JSON.parse(undone) as Undone) : null,
  };
}

/** Takes back what is as it was then; a NotFound for what is not one's own, a Problem 409 where it is too late. */
export async function undoHandOver(at: AtHandOver, id: number): Promise<HandOverInfo> {
  const { visit, steward } = at;
  const found = await HandOver.findOne({
    where: { id, portalId: visit.portalId, memberId: visit.person.id ?? 0, steward: steward.id },
  });
  if (!found) throw new NotFound('hand-over');
  const [mine] = await HandOver.update(
    { undone: JSON.stringify({ at: new Date().toISOString(), back: 0, left: [] } satisfies Undone) },
    { where: { id, undone: null, at: { [Op.gt]: new Date(Date.now() - undoneWithin) } } },
  );
  if (mine !== 1) throw new Problem(409, 'too-late', 'This was taken back already, or more than a day has passed.');
  try {
    const { back, left } = await takeBack(visit.source, visit, steward, JSON.parse(found.records) as HandedOver[]);
    const undone: Undone = {
      at: new Date().toISOString(),
      back: back.length,
      left: left.map(({ record, why }) => ({ table: record.table, id: record.id, why })),
    };
    await found.update({ undone: JSON.stringify(undone) });
  } catch (error) {
    if (error instanceof Problem) await found.update({ undone: null });
    throw error;
  }
  return infoOf(found);
}

/** Forgets what can't be taken back any more. */
export async function forgetOldHandOvers(now: Date): Promise<void> {
  await HandOver.destroy({ where: { at: { [Op.lt]: new Date(now.getTime() - undoneWithin) } } });
}
