import { Problem } from '../../core/refusals/problem';
import { Portal, Setting } from '../store/models';
import { readSetting } from '../store/store';

const setting = 'address';

/**
 * Where people reach a portal, or the bench when null, for the links in mails. Never taken from what a request says of
 * itself.
 */
export async function readAddress(portalId: number | null): Promise<string> {
  const portal = portalId === null ? null : await Portal.findByPk(portalId, { attributes: ['address'] });
  if (portal?.address) return portal.address;
  const kept = await readSetting(setting);
  if (kept === null)
    throw new Problem(503, 'no-address', 'Nobody has said where this installation is reached, so no link can be made.');
  return kept;
}

export async function saveAddress(address: string): Promise<void> {
  await Setting.upsert({ name: setting, value: address.replace(/\/+$/, '') });
}
