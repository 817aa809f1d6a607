import { hkdfSync, randomInt, timingSafeEqual } from 'node:crypto';
import { Op } from 'sequelize';
import { normaliseEmail } from '../../core/text/email';
import type { CoreServices } from '../definitions/portal-services';
import { answeredBefore, inTurns, type Turns } from '../outbox/turns';
import { Portal } from '../store/models';
import { tokenHash } from '../sessions/sessions';
import { DoorCall } from '../store/people-models';
import { callForCode, countTry, useCode } from '../store/door-sql';
import { hashOfCode } from './code-hash';
import { benchDoorway } from './bench-doorway';
import type { Doorway } from './doorway';
import { portalDoorway } from './portal-doorway';

const minute = 60_000;
/** So long a code works, and so many tries it stands. */
const codeLasts = 10 * minute;
const mostTries = 5;
/** So many mails of a kind an address gets within an hour: who asks for somebody else's floods no mail box. */
const mostAnHour = 10;
const lookEvery = 5000;

/** What comes of typing a code. */
export type CodeOutcome = 'right' | 'wrong' | 'too many tries';

/**
 * Those who ask at a door for a code or for a link to a new password. Whoever asks, the same is done and answered:
 * whether the address lets anybody in is found out afterwards, where nobody waits for it.
 */
export class DoorCalls {
  /** By which codes are hashed. */
  readonly key: Buffer;
  private turns: Turns | null = null;

  constructor(
    private readonly services: CoreServices,
    secretKey: Buffer,
  ) {
    this.key = Buffer.from(hkdfSync('sha256', secretKey, '', 'codes at the door', 32));
  }

  /** Notes that somebody asks. */
  async note(
    { portalId }: Pick<Doorway, 'portalId'>,
    email: string,
    wants: DoorCall['wants'],
    browser: string,
  ): Promise<void> {
    const now = new Date();
    await DoorCall.create({
      portalId,
      email: normaliseEmail(email),
      wants,
      browserHash: tokenHash(browser),
      state: 'waiting',
      madeAt: now,
      endsAt: new Date(now.getTime() + codeLasts),
    });
    this.turns?.wakeSoon();
  }

  /**
   * Whether a code is the last one that was sent to the address because this browser asked: nobody else can use it up,
   * or have it replaced by another. Does the same for an address that got none.
   */
  async tryCode(
    { portalId }: Pick<Doorway, 'portalId'>,
    email: string,
    browser: string | null,
    code: string,
  ): Promise<CodeOutcome> {
    const call = await callForCode(portalId, normaliseEmail(email), tokenHash(browser ?? ''));
    const { id, codeHash } = call ?? { id: 0, codeHash: null };
    // Counted before it is compared, so that many at once are no more than many one after the other.
    const counted = await countTry(id, mostTries);
    const isRight = timingSafeEqual(
      Buffer.from(hashOfCode(this.key, id, code), 'hex'),
      Buffer.from(codeHash ?? hashOfCode(this.key, id, 'no code'), 'hex'),
    );
    if (call && !counted) return 'too many tries';
    if (!isRight || codeHash === null) return 'wrong';
    return (await useCode(id)) ? 'right' : 'wrong';
  }

  /** Writes to those who asked and may come in, one server or several. */
  begin(): Turns {
    this.turns = inTurns(async (isClosed) => {
      for (;;) {
        const where = { state: 'waiting' as const, madeAt: { [Op.lt]: answeredBefore() } };
        const [call] = await DoorCall.findAll({ where, order: [['id', 'ASC']], limit: 1 });
        if (!call || isClosed()) return;
        try {
          await this.answer(call);
        } catch (error) {
          this.services.log.warn({ reason: (error as Error).name }, 'a call at the door not answered');
          return;
        }
      }
    }, lookEvery);
    this.turns.wake();
    return this.turns;
  }

  /** Forgets calls that ended a day ago. */
  static async forgetOld(now: Date): Promise<void> {
    await DoorCall.destroy({ where: { endsAt: { [Op.lt]: new Date(now.getTime() - 24 * 60 * minute) } } });
  }

  private async answer(call: DoorCall): Promise<void> {
    const at = await this.doorwayOf(call);
    const late = call.endsAt < new Date();
    const isFlood = (await this.writtenLately(call)) >= mostAnHour;
    const person = late || isFlood ? null : await at?.personOf(call.email);
    if (!at || !person) {
      await DoorCall.update({ state: 'nobody' }, { where: { id: call.id, state: 'waiting' } });
      return;
    }
    await this.services.store.sequelize.transaction(async (transaction) => {
      const code = call.wants === 'code' ? String(randomInt(1_000_000)).padStart(6, '0') : null;
      const codeHash = code === null ? null : hashOfCode(this.key, call.id, code);
      const [mine] = await DoorCall.update(
        { state: 'sent', codeHash },
        { where: { id: call.id, state: 'waiting' }, transaction },
      );
      if (mine !== 1) return;
      if (code !== null) await at.queueCode(person, code, call.endsAt, transaction);
      else await at.queuePasswordLink(person, transaction);
    });
  }

  /** The door at which somebody called; null where the portal is not published any more. */
  private async doorwayOf({ portalId }: DoorCall): Promise<Doorway | null> {
    if (portalId === null) return benchDoorway(this.services);
    const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
    if (portal.publishedVersion === null) return null;
    const definition = await this.services.definitions.version(portal.id, portal.publishedVersion);
    return portalDoorway(this.services, { portal, definition });
  }

  /** How many mails of the kind the address got within the hour. */
  private writtenLately({ portalId, email, wants }: DoorCall): Promise<number> {
    const since = new Date(Date.now() - 60 * minute);
    return DoorCall.count({ where: { portalId, email, wants, state: ['sent', 'used'], madeAt: { [Op.gt]: since } } });
  }
}
