import type { Sql } from '../../core/sql/sql';
import { KeptPress } from './press-model';
import { momentParameter, preparedWrite } from './prepared';

/** What each press writes: as prepared statements, since many may come at once. */

const taken = 1062;

/** A press, by its hash. */
export interface PressAt {
  portalId: number;
  pressHash: string;
}

/**
 * Notes that a press is begun, where `proof` holds, which is a condition of MariaDB with its values: what is assumed of
 * whoever pressed is borne out by it.
 */
export async function beginPress(
  { portalId, pressHash }: PressAt,
  proof: Sql | null = null,
): Promise<'begun' | 'known' | 'unproven'> {
  const values = [portalId, pressHash, momentParameter(new Date())];
  const into = 'INSERT INTO presses (portal_id, press_hash, begun_at)';
  const text = proof ? `${into} SELECT ?, ?, ? FROM DUAL WHERE ${proof.text}` : `${into} VALUES (?, ?, ?)`;
  try {
    const noted = await preparedWrite(KeptPress.sequelize!, text, [...values, ...((proof?.params ?? []) as string[])]);
    return noted === 1 ? 'begun' : 'unproven';
  } catch (error) {
    // Where the proof doesn't hold it would not have come so far.
    if ((error as { errno?: number }).errno === taken) return 'known';
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
