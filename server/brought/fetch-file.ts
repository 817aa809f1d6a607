import type { OutsideAddress } from '../../core/definition/outside-address';
import type { CoreServices } from '../definitions/portal-services';
import { keepFile, refuseFull } from '../files/stored-file';
import type { StoredFile } from '../store/models';

const keptFor = 24 * 3_600_000;
const largest = 100 * 1024 * 1024;

/** Fetches the file at an address, and keeps it for a day as one that is brought. Throws CallFailed. */
export async function fetchFile(
  { caller, store }: Pick<CoreServices, 'caller' | 'store'>,
  portalId: number,
  address: OutsideAddress,
  onceKey: string,
): Promise<StoredFile> {
  await refuseFull(portalId);
  return caller.fetch(address, { portalId, onceKey }, (bytes) =>
    keepFile(
      store.sequelize,
      {
        portalId,
        name: nameIn(address.url),
        purpose: 'import',
        type: 'application/octet-stream',
        goneAt: new Date(Date.now() + keptFor),
      },
      bytes,
      largest,
    ),
  );
}

/** The last part of an address, which names the file. */
function nameIn(url: string): string {
  const part = new URL(url).pathname.split('/').at(-1) ?? '';
  try {
    return decodeURIComponent(part) || 'brought';
  } catch {
    return part;
  }
}
