import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { correctedWithin, type CorrectableOfForm } from '../presses/presses';
import { tokenHash } from '../sessions/sessions';
import type { Correctable } from '../gate/gate';
import { KeptPress } from '../store/press-model';

/** What a receipt is for; a Problem 410 where it is over, or was never one. */
export async function readReceipt(portalId: number, form: string, token: string): Promise<Correctable> {
  const since = { begunAt: { [Op.gt]: new Date(Date.now() - correctedWithin) } };
  const found = await KeptPress.findOne({ where: { portalId, receiptHash: tokenHash(token), ...since } });
  const held = found?.correctable ? (JSON.parse(found.correctable) as CorrectableOfForm) : null;
  if (held?.form !== form) throw new Problem(410, 'receipt-over', "What you sent can't be corrected here any more.");
  return held;
}

/** The receipt goes on from what was corrected; until when it holds stays. */
export async function goOn(portalId: number, form: string, token: string, correctable: Correctable): Promise<void> {
  const what: CorrectableOfForm = { ...correctable, form };
  await KeptPress.update({ correctable: JSON.stringify(what) }, { where: { portalId, receiptHash: tokenHash(token) } });
}
