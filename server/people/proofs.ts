import type { Transaction } from 'sequelize';
import { Member } from '../store/people-models';

/** Forgets all by which members proved who they are: their address is another one by now. */
export async function forgetProofs(memberIds: readonly number[], transaction?: Transaction): Promise<void> {
  await Member.update({ passwordHash: null }, { where: { id: [...memberIds] }, transaction });
}
