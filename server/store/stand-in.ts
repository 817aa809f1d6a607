import { createHmac, randomBytes } from 'node:crypto';
import type { StandInKey } from '../../core/mask/mask';
import { keptWithStore } from './kept-with-store';
import { Setting } from './models';

const keys = keptWithStore(() => new Map<number, Promise<StandInKey>>());

/**
 * The portal's secret for stand-ins, made when it is first needed and never given out. It outlives versions, so that
 * stand-ins stay the same.
 */
export function standInKey(portalId: number): Promise<StandInKey> {
  const known = keys();
  let key = known.get(portalId);
  if (!key) {
    key = load(portalId);
    known.set(portalId, key);
    key.catch(() => known.delete(portalId));
  }
  return key;
}

async function load(portalId: number): Promise<StandInKey> {
  const [setting] = await Setting.findOrCreate({
    where: { name: `stand-in/${portalId}` },
    defaults: { name: `stand-in/${portalId}`, value: randomBytes(32).toString('base64') },
  });
  const key = Buffer.from(setting.value, 'base64');
  return { key, hmac: (text) => createHmac('sha256', key).update(text, 'utf8').digest('hex') };
}
