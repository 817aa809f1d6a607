import * as oidc from 'openid-client';
import { Problem } from '../../core/refusals/problem';
import type { IdentityProvider } from '../../core/sign-in/sign-in-rules';
import { normaliseEmail } from '../../core/text/email';
import { reachableAddress } from '../sources/reachable';
import { seal, unseal } from '../store/secret';
import { Setting } from '../store/models';
import { readSetting } from '../store/store';

/** What a browser is sent away with, and must come back with (OpenID Connect Core 3.1.2.1, RFC 7636). */
export interface SentAway {
  state: string;
  nonce: string;
  verifier: string;
  /** Where in the portal they wanted to go. */
  back: string;
}

/** The setting that keeps the sealed secret of a portal's provider, or of the bench's. */
export const providerSecret = (portalId: number | null) => `provider secret/${portalId ?? 'builders'}`;
const timeout = 10;

/** Asks identity providers who somebody is, under each portal's own client and secret. */
export class IdentityProviders {
  private readonly asked = new Map<string, Promise<oidc.Configuration>>();

  constructor(
    private readonly key: Buffer,
    private readonly privateAddresses: boolean,
  ) {}

  async saveSecret(portalId: number | null, secret: string): Promise<void> {
    const name = providerSecret(portalId);
    await Setting.upsert({ name, value: seal(this.key, name, secret) });
  }

  async hasSecret(portalId: number | null): Promise<boolean> {
    return (await readSetting(providerSecret(portalId))) !== null;
  }

  /** As `discover`; those who come while it is being asked wait for its answer: a crowd asks once. */
  async together(portalId: number | null, provider: IdentityProvider): Promise<oidc.Configuration> {
    const key = JSON.stringify([portalId, provider]);
    const asked = this.asked.get(key) ?? this.discover(portalId, provider).finally(() => this.asked.delete(key));
    this.asked.set(key, asked);
    return asked;
  }

  /** What the provider says of itself, read anew; a Problem says what is wrong with it. */
  async discover(portalId: number | null, provider: IdentityProvider): Promise<oidc.Configuration> {
    const kept = await readSetting(providerSecret(portalId));
    const secret = kept === null ? null : unseal(this.key, providerSecret(portalId), kept);
    if (secret === null) throw away('Its client secret is not set, or can not be read any more. Set it again.');
    const issuer = new URL(provider.issuer);
    try {
      const config = await oidc.discovery(
        issuer,
        provider.clientId,
        { redirect_uris: [] },
        oidc.ClientSecretPost(secret),
        {
          timeout,
          [oidc.customFetch]: this.fetch,
          execute: [
            // The signature is looked at as well, not the way alone by which the token came.
            oidc.enableNonRepudiationChecks,
            ...(issuer.protocol === 'http:' && this.privateAddresses ? [oidc.allowInsecureRequests] : []),
          ],
        },
      );
      const server = config.serverMetadata();
      if (!server.authorization_endpoint || !server.token_endpoint)
        throw away('It names no addresses to sign in at and to ask for tokens.');
      if (server.response_types_supported && !server.response_types_supported.includes('code'))
        throw away('It does not know the authorization code flow.');
      return config;
    } catch (error) {
      throw error instanceof Problem ? error : away(reasonOf(error));
    }
  }

  /** Where a browser is sent to prove who it is, and with what it must come back. */
  async sendAway(
    config: oidc.Configuration,
    redirectUri: string,
    back: string,
  ): Promise<{ to: string; sent: SentAway }> {
    const verifier = oidc.randomPKCECodeVerifier();
    const sent = { state: oidc.randomState(), nonce: oidc.randomNonce(), verifier, back };
    const to = oidc.buildAuthorizationUrl(config, {
      redirect_uri: redirectUri,
      scope: 'openid email',
      code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
      state: sent.state,
      nonce: sent.nonce,
    });
    return { to: to.href, sent };
  }

  /**
   * The address that the provider vouches for, from what it sent the browser back with. Throws a Problem where anything
   * about its word is not as OpenID Connect Core 3.1.3.7 asks, or the address is not verified (5.1).
   */
  async emailOf(
    config: oidc.Configuration,
    provider: IdentityProvider,
    cameBack: URL,
    { state, nonce, verifier }: SentAway,
  ): Promise<string> {
    let claims: Record<string, unknown> | undefined;
    try {
      const tokens = await oidc.authorizationCodeGrant(config, cameBack, {
        pkceCodeVerifier: verifier,
        expectedState: state,
        expectedNonce: nonce,
        idTokenExpected: true,
      });
      claims = tokens.claims();
    } catch (error) {
      throw away(reasonOf(error));
    }
    const email = claims?.[provider.emailClaim ?? 'email'];
    if (typeof email !== 'string' || email === '') throw away('It gave no e-mail for whoever signed in.');
    if (claims?.email_verified !== true) throw away('It does not vouch for the e-mail of whoever signed in.');
    return normaliseEmail(email);
  }

  /** No further than a connection may lead, and no redirects on the way. */
  private readonly fetch: oidc.CustomFetch = async (url, options) => {
    await reachableAddress(new URL(url).hostname, this.privateAddresses);
    return fetch(url, { ...(options as RequestInit), redirect: 'manual' });
  };
}

const away = (reason: string): Problem =>
  new Problem(502, 'provider', `The identity provider could not be used. ${reason}`);

/** What openid-client found wrong, in its own words; never what the provider sent. */
function reasonOf(error: unknown): string {
  const { message, code, cause } = error as Error & { code?: string; cause?: { message?: string } };
  const inner = (cause as { message?: string } | undefined)?.message;
  return [message, inner !== message ? inner : undefined, code].filter(Boolean).join('; ').slice(0, 300);
}
