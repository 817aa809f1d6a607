import type { WayInFacts } from '../../core/check/way-in-findings';
import type { CoreServices } from '../definitions/portal-services';
import { Member } from '../store/people-models';
import { readSetting } from '../store/store';
import { providerSecret } from './identity-provider';

/** What is set of signing in at a portal beside its draft, for the check. */
export async function wayInFacts({ mailServers }: CoreServices, portalId: number): Promise<WayInFacts> {
  const inside = { portalId, onRoster: true, suspended: null };
  const [server, secret, members, withoutPassword] = await Promise.all([
    mailServers.read(),
    readSetting(providerSecret(portalId)),
    Member.count({ where: inside }),
    Member.count({ where: { ...inside, passwordHash: null } }),
  ]);
  return { hasMailServer: server !== null, hasProviderSecret: secret !== null, members, withoutPassword };
}
