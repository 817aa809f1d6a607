import type { Transaction } from 'sequelize';
import { Member, Passkey, SecondFactor } from '../store/people-models';

/** Forgets all by which members proved who they are: their address is another one by now. */
export async function forgetProofs(memberIds: readonly number[], transaction?: Transaction): Promise<void> {
  const memberId = [...memberIds];
  await Member.update({ passwordHash: null }, { where: { id: memberId }, transaction });
  await SecondFactor.destroy({ where: { memberId }, transaction });
  await Passkey.destroy({ where: { memberId }, transaction });
}
