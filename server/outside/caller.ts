import type { OutsideAddress } from '../../core/definition/outside-address';
import { AddressSecrets } from './address-secrets';
import { CallFailed, callOut, fetchOut, type CallAnswer } from './call-out';
import { signedHeaders } from './sign';

/** Calls addresses outside as actions do: signed, under an id of the call's own. */
export class Caller {
  readonly secrets: AddressSecrets;

  /** `privateAddresses` lets calls lead to this machine and its own network. */
  constructor(
    secretKey: Buffer,
    private readonly privateAddresses: boolean,
  ) {
    this.secrets = new AddressSecrets(secretKey);
  }

  /** Hands what an address gives to `take`; throws CallFailed where nothing can be fetched there. */
  async fetch<T>(
    { id, url }: OutsideAddress,
    { portalId, onceKey }: { portalId: number; onceKey: string },
    take: (bytes: AsyncIterable<Uint8Array>) => Promise<T>,
  ): Promise<T> {
    const secrets = await this.secrets.of(portalId, id);
    const headers = signedHeaders(secrets, { id: onceKey, at: new Date(), body: '' });
    return fetchOut(url, headers, { privateAddresses: this.privateAddresses }, ({ status, bytes }) => {
      if (status !== 200) throw new CallFailed(`It answered ${status}, and a file was to be fetched.`);
      return take(bytes);
    });
  }

  /** Throws CallFailed where nothing was answered that could be understood. */
  async call(
    { id, url }: OutsideAddress,
    { portalId, onceKey, body }: { portalId: number; onceKey: string; body: string },
  ): Promise<CallAnswer> {
    const secrets = await this.secrets.of(portalId, id);
    if (secrets.length === 0)
      throw new CallFailed(
        'Its secret can no longer be read: the key of this installation is another one. Make a new one.',
      );
    const headers = signedHeaders(secrets, { id: onceKey, at: new Date(), body });
    return callOut(url, body, headers, { privateAddresses: this.privateAddresses });
  }
}
