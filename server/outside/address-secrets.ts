import { AddressSecret } from '../store/call-models';
import { seal, unseal } from '../store/secret';
import { newSecret } from './sign';

/** So long calls are signed by the secret before as well, for whoever has to put in the new one. */
const bothFor = 24 * 3_600_000;

/** What calls to addresses are signed with: kept sealed, told once. */
export class AddressSecrets {
  constructor(private readonly key: Buffer) {}

  /** The secrets of the moment, the newest first; one is made where there is none yet. */
  async of(portalId: number, address: string, now = new Date()): Promise<string[]> {
    const known = await this.known(portalId, address);
    if (!known) {
      await AddressSecret.bulkCreate(
        [{ portalId, address, sealed: this.sealed(portalId, address, newSecret()), madeAt: now }],
        { ignoreDuplicates: true },
      );
      return this.of(portalId, address, now);
    }
    const isNew = now.getTime() - known.madeAt.getTime() < bothFor;
    return [known.sealed, ...(isNew && known.sealedBefore ? [known.sealedBefore] : [])].flatMap(
      (sealed) => unseal(this.key, nameOf(portalId, address), sealed) ?? [],
    );
  }

  /** Makes another secret, which is told here and never again; the one before holds for a day longer. */
  async renew(portalId: number, address: string): Promise<string> {
    const secret = newSecret();
    const known = await this.known(portalId, address);
    await AddressSecret.upsert({
      portalId,
      address,
      sealed: this.sealed(portalId, address, secret),
      sealedBefore: known?.sealed ?? null,
      madeAt: new Date(),
    });
    return secret;
  }

  private known(portalId: number, address: string): Promise<AddressSecret | null> {
    return AddressSecret.findOne({ where: { portalId, address } });
  }

  private sealed(portalId: number, address: string, secret: string): string {
    return seal(this.key, nameOf(portalId, address), secret);
  }
}

const nameOf = (portalId: number, address: string): string => `address/${portalId}/${address}`;
