import { createHash } from 'node:crypto';
import { Op } from 'sequelize';
import { insertMany } from '../store/insert-many';
import { OutsideCall } from '../store/call-models';

const day = 24 * 3_600_000;
/** So long a call that is over can be looked at: it holds what was told of somebody. */
const keptDays = 90;
const over: OutsideCall['state'][] = ['done', 'given up', 'unsure'];
const lookEvery = 100;

/** A call that is to be made once what it tells of is kept. */
export interface NewCall {
  portalId: number;
  memberId: number | null;
  /** The role of services by which it was done by itself; null where somebody pressed. */
  role: string | null;
  action: string;
  step: number;
  address: string;
  tableName: string;
  recordId: string;
  onceKey: string;
  body: string;
  answers: boolean;
}

/** Forgets calls that were over long ago. */
export async function forgetOldCalls(now: Date): Promise<void> {
  await OutsideCall.destroy({ where: { state: over, madeAt: { [Op.lt]: new Date(now.getTime() - keptDays * day) } } });
}

/**
 * Calls to addresses outside: written down before what they tell of is kept, made once it is, each by whichever server
 * comes first, and again until they are answered; always under the same id.
 */
export class CallOutbox {
  private woken: () => void = () => undefined;

  /** `beside` where they are let go in the transaction of what they tell of. */
  async hold(calls: readonly NewCall[], beside: boolean): Promise<void> {
    const now = new Date();
    await insertMany(
      OutsideCall,
      calls.map((call) => ({
        ...call,
        laneHash: laneOf(call),
        state: 'held',
        beside,
        tries: 0,
        madeAt: now,
        nextTry: now,
      })),
    );
  }

  /** What was held is kept, so it goes out. */
  async keep(onceKeys: readonly string[]): Promise<void> {
    await OutsideCall.update({ state: 'waiting' }, { where: { onceKey: [...onceKeys], state: 'held' } });
    this.wake();
  }

  /** What was held was not kept, so there is nothing to tell. */
  async drop(onceKeys: readonly string[]): Promise<void> {
    await OutsideCall.destroy({ where: { onceKey: [...onceKeys], state: 'held' } });
  }

  /** What became of calls, as soon as none of them is to be tried any more, or after so many milliseconds. */
  async afterAWhile(onceKeys: readonly string[], within: number): Promise<OutsideCall[]> {
    const end = Date.now() + within;
    for (;;) {
      const found = await OutsideCall.findAll({ where: { onceKey: [...onceKeys] }, order: [['id', 'ASC']] });
      if (
        Date.now() >= end ||
        found.every(({ state, tries }) => over.includes(state) || (state === 'waiting' && tries > 0))
      )
        return found;
      await new Promise((resolve) => setTimeout(resolve, lookEvery));
    }
  }

  /** `tell` is called when there may be something to call. */
  whenWoken(tell: () => void): void {
    this.woken = tell;
  }

  wake(): void {
    this.woken();
  }
}

/** Calls about one record to one address come in their order. */
const laneOf = ({ address, tableName, recordId }: NewCall): string =>
  createHash('sha256')
    .update(JSON.stringify([address, tableName, recordId]))
    .digest('base64url');
