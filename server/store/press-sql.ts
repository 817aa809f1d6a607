import { KeptPress } from './press-model';
import { momentParameter, preparedWrite } from './prepared';

/** What each press writes: as prepared statements, since many may come at once. */

const taken = 1062;

/** A press, by its hash. */
export interface PressAt {
  portalId: number;
  pressHash: string;
}

/** Notes that a press is begun; false where it was already. */
export async function beginPress({ portalId, pressHash }: PressAt): Promise<boolean> {
  const text = 'INSERT INTO presses (portal_id, press_hash, begun_at) VALUES (?, ?, ?)';
  try {
    await preparedWrite(KeptPress.sequelize!, text, [portalId, pressHash, momentParameter(new Date())]);
    return true;
  } catch (error) {
    if ((error as { errno?: number }).errno === taken) return false;
    throw error;
  }
}

/** What is kept of a press that is done: its answer, as JSON text, and what else can be done by it. */
export type PressEnded = Pick<KeptPress, 'takesBack' | 'receiptHash' | 'correctable'> & { answer: string };

/** Notes what came of a press. */
export async function endPress({ portalId, pressHash }: PressAt, ended: PressEnded): Promise<void> {
  const text =
    'UPDATE presses SET answer = ?, takes_back = ?, receipt_hash = ?, correctable = ? ' +
    'WHERE portal_id = ? AND press_hash = ?';
  const { answer, takesBack, receiptHash, correctable } = ended;
  await preparedWrite(KeptPress.sequelize!, text, [answer, takesBack, receiptHash, correctable, portalId, pressHash]);
}
