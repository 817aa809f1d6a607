import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import type { IdentityProvider } from '../../core/sign-in/sign-in-rules';
import { writeAudit } from '../audit/audit';
import { form, said, yesNo } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import type { Doorway } from './doorway';
import type { IdentityProviders } from './identity-provider';
import { returnTo } from './provider-endpoints';

/** Whoever sets the identity provider of a door, and what is set of it. */
export interface AtProvider {
  signed: string;
  door: Pick<Doorway, 'portalId' | 'api'>;
  provider: IdentityProvider | undefined;
}

/** The identity provider of a door, as it is set beside the rules: its secret, and whether it answers. */
export function providerSettingEndpoints(providers: IdentityProviders, entry: Entry<AtProvider>) {
  return {
    providerState: endpoint({
      method: 'GET',
      path: '/sign-in/provider',
      says: "Whether the identity provider's secret is set, and where it is to send browsers back to.",
      entry,
      answers: { 200: form<{ hasSecret: boolean; returnTo: string }>({ hasSecret: yesNo, returnTo: said }) },
      does: async ({ door }) => ({
        hasSecret: await providers.hasSecret(door.portalId),
        returnTo: await returnTo(door),
      }),
    }),
    setProviderSecret: endpoint({
      method: 'PUT',
      path: '/sign-in/provider/secret',
      says: 'Keeps the client secret of the identity provider, sealed. It holds at once.',
      entry,
      body: Joi.object<{ secret: string }>({ secret: Joi.string().min(1).max(1000).required() }),
      answers: { 204: null },
      does: async ({ door, signed, body }) => {
        await providers.saveSecret(door.portalId, body.secret);
        await writeAudit(door.portalId, signed, 'set a secret', 'of the identity provider');
      },
    }),
    tryProvider: endpoint({
      method: 'POST',
      path: '/sign-in/provider/try',
      says: 'Asks the identity provider that is set what it can do, and says what is wrong.',
      entry,
      answers: { 200: form<{ fine: boolean; answer: string }>({ fine: yesNo, answer: said }) },
      does: async ({ door, provider }) => {
        if (!provider) throw new Problem(409, 'no-provider', 'No provider is set yet.');
        try {
          const config = await providers.discover(door.portalId, provider);
          return { fine: true, answer: `${config.serverMetadata().issuer} answers as it should.` };
        } catch (error) {
          if (error instanceof Problem) return { fine: false, answer: error.message };
          throw error;
        }
      },
    }),
  };
}
