import { Op, type Transaction, type WhereOptions } from 'sequelize';
import type { PortalDefinition } from '../../core/definition/definition';
import { ServiceKey } from '../store/key-models';

/**
 * Ends the keys of roles that are none of a service's in what becomes live: a role that is made again later, under the
 * same id, is another, and nobody meant its keys.
 */
export async function endKeysOfGone(portalId: number, document: string, transaction: Transaction): Promise<void> {
  const { roles } = JSON.parse(document) as PortalDefinition;
  const services = roles.filter((role) => role.for === 'services').map(({ id }) => id);
  const now = new Date();
  const holding: WhereOptions = { [Op.or]: [{ endsAt: null }, { endsAt: { [Op.gt]: now } }] };
  await ServiceKey.update(
    { endsAt: now, endedBy: 'a publish in which its role is gone' },
    { where: { portalId, role: { [Op.notIn]: services }, ...holding }, transaction },
  );
}
