import { Op, UniqueConstraintError } from 'sequelize';
import { TimedRun } from '../store/timed-models';

/** Whoever has a run in hand and has said nothing for so long is gone. */
const goneAfter = 2 * 60_000;
const keptDays = 90;

export type RunOf = Pick<TimedRun, 'portalId' | 'kind' | 'subject' | 'day'>;

/** Takes what is to be done on a day, so that it is begun once; null where somebody has begun it. */
export async function beginRun(of: RunOf, me: string, now: Date): Promise<TimedRun | null> {
  if (await isBegun(of)) return null;
  try {
    const run = await TimedRun.create({ ...of, state: 'running', takenBy: me, beatAt: now, begunAt: now });
    return await run.reload();
  } catch (error) {
    if (error instanceof UniqueConstraintError) return null;
    throw error;
  }
}

/** Takes the runs of a portal that somebody left behind, of whichever day. */
export async function leftBehind(portalId: number, me: string, now: Date): Promise<TimedRun[]> {
  const gone = { [Op.lt]: new Date(now.getTime() - goneAfter) };
  const taken: TimedRun[] = [];
  for (const run of await TimedRun.findAll({ where: { portalId, state: 'running', beatAt: gone } })) {
    const { id, takenBy, beatAt } = run;
    const [count] = await TimedRun.update({ takenBy: me, beatAt: now }, { where: { id, takenBy, beatAt } });
    if (count === 1) taken.push(await run.reload());
  }
  return taken;
}

export const isOver = async (of: RunOf): Promise<boolean> =>
  (await TimedRun.count({ where: { ...of, state: { [Op.ne]: 'running' } } })) > 0;

export const isBegun = async (of: RunOf): Promise<boolean> => (await TimedRun.count({ where: { ...of } })) > 0;

/** What a server left behind that was here alone and is gone: gone on with at once. */
export async function takeOverRuns(): Promise<void> {
  await TimedRun.update({ beatAt: new Date(0) }, { where: { state: 'running' } });
}

export async function forgetOldRuns(now: Date): Promise<void> {
  await TimedRun.destroy({
    where: { state: { [Op.ne]: 'running' }, begunAt: { [Op.lt]: new Date(now.getTime() - keptDays * 24 * 3_600_000) } },
  });
}
