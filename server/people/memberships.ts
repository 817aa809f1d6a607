import type { Transaction } from 'sequelize';
import { Membership } from '../store/people-models';

/** The rows that members are known by, by the members' numbers. */
export async function membershipsOf(
  memberIds: readonly number[],
  transaction?: Transaction,
): Promise<Map<number, Membership[]>> {
  const all = await Membership.findAll({ where: { memberId: [...memberIds] }, transaction, raw: true });
  const byMember = new Map(memberIds.map((id): [number, Membership[]] => [id, []]));
  for (const each of all) byMember.get(Number(each.memberId))!.push(each);
  return byMember;
}
