import { createHmac, hkdfSync, randomBytes, timingSafeEqual } from 'node:crypto';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { TurnedAway } from '../store/form-models';

/** So many forms one address may send in ten minutes, and all addresses together of one form in one. */
const mostByOne = 20;
const mostByAll = 600;
/** Nobody reads and fills in a form faster, in milliseconds; and after so long it is to be looked at again. */
const least = 3000;
const ticketHolds = 12 * 3_600_000;
/** So long it is kept what was turned away. */
const keptFor = 90 * 24 * 3_600_000;
/** So long a press is known that nothing else is kept of. */
const pressesKnown = 10 * 60_000;

export type WhyTurnedAway = 'too often' | 'too many in all' | 'filled the trap' | 'too quick' | 'without a ticket';

/** Where a public form is sent. Addresses are counted in memory alone, and nothing else is known of who sends. */
export interface PublicLimits {
  byOne?: number;
  byAll?: number;
  least?: number;
}

interface FormAt {
  portalId: number;
  form: string;
}

interface Sender {
  address: string;
  trap: string;
  ticket: string;
  now: Date;
}

/** What keeps robots from public forms, without any service of others. */
export class PublicForms {
  private readonly key: Buffer;
  private readonly one: RateLimiterMemory;
  private readonly all: RateLimiterMemory;
  private readonly least: number;
  /** What addresses are hashed with, another each day. */
  private salt = { day: '', bytes: randomBytes(32) };
  private readonly pressed = new Map<string, { done: Promise<unknown>; at: number }>();
  /** What was said of a request, which may be looked at a second time where what was assumed did not hold. */
  private readonly verdicts = new WeakMap<object, Promise<boolean>>();

  constructor(secretKey: Buffer, limits: PublicLimits = {}) {
    this.key = Buffer.from(hkdfSync('sha256', secretKey, '', 'tickets of public forms', 32));
    this.one = new RateLimiterMemory({ points: limits.byOne ?? mostByOne, duration: 600 });
    this.all = new RateLimiterMemory({ points: limits.byAll ?? mostByAll, duration: 60 });
    this.least = limits.least ?? least;
  }

  /** Says when a form was opened, so that only the server can have said it. */
  ticket(portalId: number, form: string, now: Date): string {
    const at = String(now.getTime());
    return `${at}.${this.sign(portalId, form, at)}`;
  }

  /** The receipt of a press, by its hash: whoever sends it again gets the same, and nowhere is it kept. */
  receipt(portalId: number, form: string, press: string): string {
    return createHmac('sha256', this.key)
      .update(JSON.stringify(['receipt', portalId, form, press]))
      .digest('base64url');
  }

  private sign(portalId: number, form: string, at: string): string {
    return createHmac('sha256', this.key)
      .update(JSON.stringify([portalId, form, at]))
      .digest('base64url');
  }

  /**
   * Throws a Problem where a sending is turned away, and notes why, once for each request. True where it is to be
   * answered as if it had been kept, and isn't: whoever fills what nobody sees learns nothing from it.
   */
  refuse(request: object, at: FormAt, sender: Sender): Promise<boolean> {
    let verdict = this.verdicts.get(request);
    if (!verdict) this.verdicts.set(request, (verdict = this.verdictOn(at, sender)));
    return verdict;
  }

  private async verdictOn(at: FormAt, { address, trap, ticket, now }: Sender): Promise<boolean> {
    if (trap !== '') return this.note(at, 'filled the trap').then(() => true);
    const [opened = '', signed = ''] = ticket.split('.');
    const [given, known] = [Buffer.from(signed), Buffer.from(this.sign(at.portalId, at.form, opened))];
    const isOurs = given.length === known.length && timingSafeEqual(given, known);
    const since = now.getTime() - Number(opened);
    if (!isOurs || since > ticketHolds)
      await this.turnAway(at, 'without a ticket', 409, 'This form has been open for long. Load the page again.');
    if (since < this.least)
      await this.turnAway(at, 'too quick', 429, 'That was quick. Look it over once more, and send it again.');
    await this.count(
      at,
      this.one,
      this.hashed(address, now),
      'too often',
      'Too much was sent from here. Try again in ten minutes.',
    );
    await this.count(
      at,
      this.all,
      JSON.stringify(at),
      'too many in all',
      'Too much is being sent just now. Try again in a minute.',
    );
    return false;
  }

  /**
   * Does the work of a press once, however often it comes within some minutes; known in memory alone. One that failed
   * may come again.
   */
  onceInMemory<T>(portalId: number, form: string, press: string, work: () => Promise<T>): Promise<T> {
    const now = Date.now();
    // The oldest stand first.
    for (const [each, { at }] of this.pressed) {
      if (now - at <= pressesKnown) break;
      this.pressed.delete(each);
    }
    const key = JSON.stringify([portalId, form, press]);
    const known = this.pressed.get(key);
    if (known) return known.done as Promise<T>;
    const done = work();
    this.pressed.set(key, { done, at: now });
    done.catch(() => this.pressed.delete(key));
    return done;
  }

  /** An address as it is counted: nobody can tell it from what is in memory, and tomorrow it is another. */
  private hashed(address: string, now: Date): string {
    const day = now.toISOString().slice(0, 10);
    if (this.salt.day !== day) this.salt = { day, bytes: randomBytes(32) };
    return createHmac('sha256', this.salt.bytes).update(address).digest('base64url');
  }

  private async count(
    at: FormAt,
    limiter: RateLimiterMemory,
    key: string,
    why: WhyTurnedAway,
    words: string,
  ): Promise<void> {
    try {
      await limiter.consume(key);
    } catch (error) {
      if (!(error instanceof RateLimiterRes)) throw error;
      await this.turnAway(at, why, 429, words);
    }
  }

  private async turnAway(at: FormAt, why: WhyTurnedAway, status: number, words: string): Promise<never> {
    await this.note(at, why);
    throw new Problem(status, 'turned-away', words);
  }

  /** A line for each reason and day: a flood makes a number large, and no table. */
  private async note({ portalId, form }: FormAt, why: WhyTurnedAway): Promise<void> {
    const now = new Date();
    const where = { portalId, form, why, day: now.toISOString().slice(0, 10) };
    const [line] = await TurnedAway.findOrCreate({ where, defaults: { ...where, times: 0, last: now } });
    await line.increment('times');
    await line.update({ last: now });
  }
}

export async function forgetOldTurnedAway(now: Date): Promise<void> {
  await TurnedAway.destroy({ where: { last: { [Op.lt]: new Date(now.getTime() - keptFor) } } });
}
