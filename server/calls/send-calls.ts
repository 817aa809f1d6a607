import { randomBytes } from 'node:crypto';
import { Op } from 'sequelize';
import type { OutsideAddress } from '../../core/definition/outside-address';
import type { CoreServices } from '../definitions/portal-services';
import { inTurns, type Turns } from '../outbox/turns';
import { OutsideCall } from '../store/call-models';
import { nextCalls } from '../store/call-sql';
import { Portal } from '../store/models';
import { CallFailed } from '../outside/call-out';
import { writeAnswer } from './write-answer';

const minute = 60_000;
/** After each try in vain it is waited longer. */
const pauses = [minute / 12, minute / 2, 2 * minute, 10 * minute, 30 * minute, 60 * minute, 4 * 60 * minute];
/** So long it is tried. */
const longest = 3 * 24 * 60 * minute;
const lookEvery = 5000;
/** So many are looked at together, and so many of them called at the same time. */
const atATime = 60;
const beside = 12;
/** One that is slow does not hold up the others. */
const besideAtOne = 4;
/** Whoever took a call and has said nothing for so long is gone. */
const goneAfter = 3 * minute;
/** What is kept of an answer. */
const keptText = 4000;
/** Answers that say something of the moment and not of what was sent (RFC 9110, RFC 6585, RFC 8470). */
const forNow = new Set([408, 425, 429]);

/** What a server left behind that was here alone and is gone: gone on with at once. */
export const takeOverCalls = (): Promise<void> => lookAfterLost(new Date(), '');

/** Makes the calls that wait, one server or several: each call is taken by one of them. */
export function sendCalls(services: CoreServices): Turns {
  const me = randomBytes(8).toString('hex');
  const turns = inTurns(async (isClosed) => {
    try {
      await lookAfterLost(new Date(Date.now() - goneAfter), me);
      await callDue(services, me, isClosed);
    } catch (error) {
      services.log.debug({ reason: (error as Error).name }, 'addresses not called');
    }
  }, lookEvery);
  services.outsideCalls.whenWoken(() => turns.wake());
  turns.wake();
  return turns;
}

/**
 * One that somebody had in hand when they were stopped is called again, under the same id. One of which nobody knows
 * whether what it tells of was kept is not; one that would have been let go with it was not.
 */
async function lookAfterLost(before: Date, me: string): Promise<void> {
  const gone = { [Op.lt]: before };
  const again = { state: 'waiting' as const, nextTry: new Date() };
  await OutsideCall.update(again, { where: { state: 'sending', nextTry: gone } });
  // Between two turns nothing is in hand: the database was away before it could be said what came of it.
  await OutsideCall.update(again, { where: { state: 'sending', takenBy: me } });
  await OutsideCall.destroy({ where: { state: 'held', beside: true, madeAt: gone } });
  await OutsideCall.update(
    {
      state: 'unsure',
      problem:
        'The server was stopped before it was known whether what this tells of was kept. Look before you send it.',
    },
    { where: { state: 'held', beside: false, madeAt: gone } },
  );
}

async function callDue(services: CoreServices, me: string, isClosed: () => boolean): Promise<void> {
  for (;;) {
    const due = await nextCalls(atATime);
    if (due.length === 0 || isClosed()) return;
    await inLanes(due, async (call) => {
      if (!isClosed()) await callOne(services, call, me);
    });
  }
}

/** Does the work of each, several at the same time, and not too many for one address. */
async function inLanes(calls: readonly OutsideCall[], work: (call: OutsideCall) => Promise<void>): Promise<void> {
  const left = [...calls];
  const at = new Map<string, number>();
  const laneOf = ({ portalId, address }: OutsideCall) => `${portalId}/${address}`;
  const lane = async (): Promise<void> => {
    for (;;) {
      const place = left.findIndex((call) => (at.get(laneOf(call)) ?? 0) < besideAtOne);
      if (place < 0) return;
      const [call] = left.splice(place, 1);
      const key = laneOf(call!);
      at.set(key, (at.get(key) ?? 0) + 1);
      await work(call!);
      at.set(key, at.get(key)! - 1);
    }
  };
  // Whatever fails, nothing is in hand any more when the next turn begins.
  const ended = await Promise.allSettled(Array.from({ length: beside }, lane));
  const failed = ended.find((each) => each.status === 'rejected');
  if (failed) throw failed.reason;
}

async function callOne(services: CoreServices, call: OutsideCall, me: string): Promise<void> {
  const [taken] = await OutsideCall.update(
    // While it is in hand, the moment since when.
    { state: 'sending', takenBy: me, tries: call.tries + 1, nextTry: new Date() },
    // One that was put off since it was looked at waits.
    { where: { id: call.id, state: 'waiting', nextTry: { [Op.lte]: new Date() } } },
  );
  if (taken !== 1) return;
  const end = (change: Partial<OutsideCall>) =>
    OutsideCall.update(change, { where: { id: call.id, state: 'sending', takenBy: me } });
  const to = await addressOf(services, call);
  if (!to) return void (await end({ state: 'given up', problem: 'The address that it goes to is gone.' }));
  const again = async (problem: string, wanted: number | null, more: Partial<OutsideCall> = {}) => {
    if (Date.now() - call.madeAt.getTime() > longest) return end({ ...more, state: 'given up', problem });
    const pause = Math.max(pauses[Math.min(call.tries, pauses.length - 1)]!, Math.min(wanted ?? 0, 60 * minute));
    return end({ ...more, state: 'waiting', problem, nextTry: new Date(Date.now() + pause) });
  };
  try {
    const answer = await services.caller.call(to, call);
    const kept = { status: answer.status, answer: answer.text.slice(0, keptText) };
    const said = `It answered ${answer.status}.`;
    if (answer.status >= 200 && answer.status < 300) {
      const problem = call.answers ? await writeAnswer(services, call, answer) : null;
      await end({ ...kept, state: 'done', problem, doneAt: new Date() });
    } else if (answer.status >= 500 || forNow.has(answer.status)) await again(said, answer.after, kept);
    else {
      const leads = answer.status >= 300 && answer.status < 400;
      const more = leads ? ' What leads elsewhere is not followed: enter the address that it leads to.' : '';
      await end({ ...kept, state: 'given up', problem: said + more });
    }
  } catch (error) {
    if (error instanceof CallFailed) {
      await again(error.message, null);
      // One that can't be reached is not tried once more for every call that waits.
      await putOff(call);
      return;
    }
    // What it was answered could not be put in, as the database is away: it is called again, under the same id.
    await again('Its answer could not be put in: the database was away.', null);
  }
}

/** As it is published now: one that was mended is called where it is by now. */
async function addressOf(services: CoreServices, call: OutsideCall): Promise<OutsideAddress | null> {
  const portal = await Portal.findByPk(call.portalId);
  if (!portal || portal.publishedVersion === null) return null;
  const definition = await services.definitions.version(portal.id, portal.publishedVersion);
  return definition.addresses?.find(({ id }) => id === call.address) ?? null;
}

async function putOff({ portalId, address }: OutsideCall): Promise<void> {
  const now = Date.now();
  await OutsideCall.update(
    { nextTry: new Date(now + pauses[0]!) },
    { where: { portalId, address, state: 'waiting', nextTry: { [Op.lte]: new Date(now) } } },
  );
}
