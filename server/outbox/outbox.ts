import { Op, type Transaction } from 'sequelize';
import type { WrittenMail } from '../mail/written-mail';
import { seal, unseal } from '../store/secret';
import { insertMany } from '../store/insert-many';
import { OutboxMail } from '../store/people-models';

const day = 24 * 3_600_000;
/** So long a mail that is over can be looked at: it holds what was said to somebody. */
const keptDays = 90;

/** Forgets mails that were over long ago. */
export async function forgetOldMails(now: Date): Promise<void> {
  await OutboxMail.destroy({
    where: {
      state: ['sent', 'given up', 'unsure', 'cancelled'],
      madeAt: { [Op.lt]: new Date(now.getTime() - keptDays * day) },
    },
  });
}

/** What stands in a mail in the place of its secret until it is sent, and after. */
export const secretMark = '⟦once⟧';

/** A mail that is to go out. Its words hold `secretMark` where the secret stands. */
export interface NewMail extends WrittenMail {
  portalId: number | null;
  memberId: number | null;
  kind: string;
  recipient: string;
  /** A code or link: kept sealed, and forgotten when the mail is sent. */
  secret: string | null;
  onceKey?: string;
  batch?: number;
  notAfter?: Date;
}

/**
 * What leaves the house goes through here: it is kept in the same transaction as what it tells of, and sent from there
 * by whichever server comes first.
 */
export class Outbox {
  private woken: () => void = () => undefined;

  constructor(private readonly key: Buffer) {}

  /** Mails to be sent; one whose `onceKey` is there already is left out. */
  async queue(mails: readonly NewMail[], transaction?: Transaction): Promise<void> {
    const now = new Date();
    await insertMany(
      OutboxMail,
      mails.map(({ secret, ...mail }) => ({
        ...mail,
        subject: mail.subject.slice(0, 500),
        sealed: secret === null ? null : this.sealed(mail.recipient, secret),
        state: 'waiting',
        madeAt: now,
        nextTry: now,
      })),
      transaction,
    );
    if (transaction) transaction.afterCommit(() => this.woken());
    else this.woken();
  }

  /**
   * Writes down mails that tell of what is being kept elsewhere: they wait until `keep` says that it is. One whose
   * server goes down in between is never sent by itself. `beside` where they are let go in the same transaction.
   */
  async hold(mails: readonly (NewMail & { onceKey: string })[], beside: boolean): Promise<void> {
    const now = new Date();
    await insertMany(
      OutboxMail,
      mails.map(({ secret: _none, ...mail }) => ({
        ...mail,
        subject: mail.subject.slice(0, 500),
        sealed: null,
        state: 'held',
        beside,
        madeAt: now,
        nextTry: now,
      })),
    );
  }

  /** What was held is kept, so it goes out. */
  async keep(onceKeys: readonly string[]): Promise<void> {
    await OutboxMail.update({ state: 'waiting' }, { where: { onceKey: [...onceKeys], state: 'held' } });
    this.woken();
  }

  /** What was held was not kept, so there is nothing to tell. */
  async drop(onceKeys: readonly string[]): Promise<void> {
    await OutboxMail.destroy({ where: { onceKey: [...onceKeys], state: 'held' } });
  }

  /** The mail with its secret where the mark stands; null where that can't be read any more. */
  opened({ subject, text, html, sealed, recipient }: OutboxMail): WrittenMail | null {
    if (sealed === null) return { subject, text, html };
    const secret = unseal(this.key, `outbox/${recipient}`, sealed);
    if (secret === null) return null;
    const put = (words: string) => words.replaceAll(secretMark, () => secret);
    return { subject: put(subject), text: put(text), html: put(html) };
  }

  /** `tell` is called when there may be something to send. */
  whenWoken(tell: () => void): void {
    this.woken = tell;
  }

  wake(): void {
    this.woken();
  }

  private sealed(recipient: string, secret: string): string {
    return seal(this.key, `outbox/${recipient}`, secret);
  }
}
