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

/** Notes what came of a press, as JSON text, and, sealed, what takes it back. */
export async function endPress(
  { portalId, pressHash }: PressAt,
  answer: string,
  takesBack: string | null,
): Promise<void> {
  const text = 'UPDATE presses SET answer = ?, takes_back = ? WHERE portal_id = ? AND press_hash = ?';
  await preparedWrite(KeptPress.sequelize!, text, [answer, takesBack, portalId, pressHash]);
}
