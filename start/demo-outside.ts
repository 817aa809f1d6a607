import type { DemoOutsideAt } from '../demo/actions';
import { analytes } from '../demo/analytes';
import { AddressSecrets } from '../server/outside/address-secrets';
import { Portal, Setting } from '../server/store/models';
import { openBottleTracker } from '../standins/bottle-tracker/bottle-tracker';
import type { Door } from '../standins/receiver/door';
import { openReceiver } from '../standins/receiver/receiver';

/** The setting that keeps where they were. */
export const demoOutside = 'demo outside';

/** The services that the demo calls. */
export interface DemoOutside {
  at: DemoOutsideAt;
  /** Gives them what calls of the demo's portal are signed with, once the demo is there. */
  fill(secretKey: Buffer): Promise<void>;
  close(): Promise<void>;
}

/** Opens them where they were at the last start, if that is free. */
export async function openDemoOutside(last: string | null): Promise<DemoOutside> {
  const before = last === null ? null : (JSON.parse(last) as DemoOutsideAt);
  const again = (open: (port?: number) => Promise<Door>, at: string | undefined) =>
    at === undefined ? open() : open(Number(new URL(at).port)).catch(() => open());
  const tracker = await again(openBottleTracker, before?.tracker);
  const files = { '/limits.csv': limitsText() };
  const receiver = await again((port) => openReceiver(files, port), before?.receiver);
  const at = { tracker: tracker.address, receiver: receiver.address };
  return {
    at,
    fill: async (secretKey) => {
      await Setting.upsert({ name: demoOutside, value: JSON.stringify(at) });
      const portal = await Portal.findOne({ where: { slug: 'alder-fen' } });
      if (!portal) return;
      const secrets = new AddressSecrets(secretKey);
      tracker.secrets.push(await secrets.renew(portal.id, 'bottle-tracker'));
      receiver.secrets.push(await secrets.renew(portal.id, 'lab-desk'));
    },
    close: async () => void (await Promise.all([tracker.close(), receiver.close()])),
  };
}

/** The limits as the office gives them out; those of the directive stay as they are. */
const limitsText = (): string =>
  ['Code,At least,At most', ...analytes.map(({ code, low, limit }) => `${code},${low ?? ''},${limit}`)].join('\n') +
  '\n';
