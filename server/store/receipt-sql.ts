import { Receipt } from './form-models';
import { momentParameter, preparedWrite } from './prepared';

/** Keeps a receipt: as a prepared statement, since each form that can be corrected writes one. */
export async function keepReceipt({
  portalId,
  tokenHash,
  form,
  until,
  correctable,
}: Pick<Receipt, 'portalId' | 'tokenHash' | 'form' | 'until' | 'correctable'>): Promise<void> {
  await preparedWrite(
    Receipt.sequelize!,
    'INSERT INTO receipts (portal_id, token_hash, form, until, correctable) VALUES (?, ?, ?, ?, ?)',
    [portalId, tokenHash, form, momentParameter(until), correctable],
  );
}
