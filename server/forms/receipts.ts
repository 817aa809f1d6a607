import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { tokenHash } from '../sessions/sessions';
import type { Correctable } from '../gate/gate';
import { Receipt } from '../store/form-models';
import { keepReceipt } from '../store/receipt-sql';

/** So long what was sent may be corrected. */
const heldFor = 30 * 60_000;

/** Notes what a receipt is for; of the receipt itself the hash alone is kept. */
export async function noteReceipt(
  portalId: number,
  form: string,
  token: string,
  correctable: Correctable,
): Promise<void> {
  const until = new Date(Date.now() + heldFor);
  await keepReceipt({ portalId, tokenHash: tokenHash(token), form, until, correctable: JSON.stringify(correctable) });
}

/** What a receipt is for; a Problem 410 where it is over, or was never one. */
export async function readReceipt(portalId: number, form: string, token: string): Promise<Correctable> {
  const where = { portalId, form, tokenHash: tokenHash(token), until: { [Op.gt]: new Date() } };
  const found = await Receipt.findOne({ where });
  if (!found) throw new Problem(410, 'receipt-over', "What you sent can't be corrected here any more.");
  return JSON.parse(found.correctable) as Correctable;
}

/** The receipt goes on from what was corrected; until when it holds stays. */
export async function goOn(portalId: number, token: string, correctable: Correctable): Promise<void> {
  await Receipt.update(
    { correctable: JSON.stringify(correctable) },
    { where: { portalId, tokenHash: tokenHash(token) } },
  );
}

export async function forgetOldReceipts(now: Date): Promise<void> {
  await Receipt.destroy({ where: { until: { [Op.lt]: now } } });
}
