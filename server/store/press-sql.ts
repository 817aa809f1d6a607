import { KeptPress } from './press-model';
import { momentParameter, preparedWrite, provedWrite, type Parameter } from './prepared';

/** What each press writes: as prepared statements, since many may come at once. */

const taken = 1062;

/** A press, by its hash. */
export interface PressAt {
  portalId: number;
  pressHash: string;
}

/** A condition that is to hold where a press begins. */
export interface ProofOfPress {
  text: string;
  params: Parameter[];
}

/** Notes that a press is begun; or tells that it was already, or that what was to hold doesn't. */
export async function beginPress(
  { portalId, pressHash }: PressAt,
  proof: ProofOfPress | null = null,
): Promise<'begun' | 'known' | 'unproved'> {
  const into = 'INSERT INTO presses (portal_id, press_hash, begun_at)';
  const values: Parameter[] = [portalId, pressHash, momentParameter(new Date())];
  const sequelize = KeptPress.sequelize!;
  try {
    if (!proof) await preparedWrite(sequelize, `${into} VALUES (?, ?, ?)`, values);
    else if (
      (await provedWrite(sequelize, `${into} SELECT ?, ?, ? FROM DUAL WHERE ${proof.text}`, [
        ...values,
        ...proof.params,
      ])) === 0
    )
      return 'unproved';
    return 'begun';
  } catch (error) {
    // Only a row that is to be written can be there already: the proof held.
    if ((error as { errno?: number }).errno === taken) return 'known';
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
