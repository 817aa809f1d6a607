import { Problem } from '../../core/refusals/problem';
import type { IdentityProvider } from '../../core/sign-in/sign-in-rules';
import type { IdentityProviders } from './identity-provider';

/** What an identity provider answers when it is tried, in a sentence; a Problem 409 where none is set. */
export async function triedProvider(
  providers: IdentityProviders,
  portalId: number | null,
  provider: IdentityProvider | undefined,
): Promise<{ fine: boolean; answer: string }> {
  if (!provider) throw new Problem(409, 'no-provider', 'No provider is set yet.');
  try {
    const config = await providers.discover(portalId, provider);
    return { fine: true, answer: `${config.serverMetadata().issuer} answers as it should.` };
  } catch (error) {
    if (error instanceof Problem) return { fine: false, answer: error.message };
    throw error;
  }
}
