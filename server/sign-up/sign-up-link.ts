import { createHmac, hkdfSync, timingSafeEqual } from 'node:crypto';
import type { PortalDefinition } from '../../core/definition/definition';
import type { SignUp } from '../../core/definition/sign-up';

/** Makes and reads the links of sign-ups: whoever has one can ask to come in, and nobody guesses one. */
export class SignUpLinks {
  private readonly key: Buffer;

  constructor(secretKey: Buffer) {
    this.key = Buffer.from(hkdfSync('sha256', secretKey, '', 'links of sign-ups', 32));
  }

  /** Follows from the portal and the sign-up's id: a sign-up made anew under another id has another link. */
  tokenOf(portalId: number, id: string): string {
    return createHmac('sha256', this.key).update(`${portalId}:${id}`).digest('base64url');
  }

  /** The sign-up of a definition that a token is for; undefined where it is for none. */
  find(portalId: number, { signUps = [] }: PortalDefinition, token: string): SignUp | undefined {
    const given = Buffer.from(token);
    return signUps.find(({ id }) => {
      const known = Buffer.from(this.tokenOf(portalId, id));
      return known.length === given.length && timingSafeEqual(known, given);
    });
  }

  /** The address of a link. The token stands behind the #, where no server and no log reads it. */
  address(base: string, slug: string, portalId: number, id: string): string {
    return `${base}/p/${slug}/sign-up#${this.tokenOf(portalId, id)}`;
  }
}
