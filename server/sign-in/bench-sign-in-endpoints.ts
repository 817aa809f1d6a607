import Joi from 'joi';
import { signInRules } from '../../core/sign-in/sign-in-rules';
import { writeAudit } from '../audit/audit';
import { openDraft, type BenchServices } from '../bench/bench';
import { form, said, yesNo } from '../http/answers';
import { endpoint, ownNumber } from '../http/endpoint';
import { memberOf } from '../people/administer';
import { SecondFactor } from '../store/people-models';
import { memberCookiePath } from '../visits/member-visit';
import type { IdentityProviders } from './identity-provider';
import { returnTo } from './provider-endpoints';
import { triedProvider } from './tried-provider';

/** What builders set of signing in beside the draft: the provider's secret, and help for who lost a second factor. */
export function benchSignInEndpoints(services: BenchServices, providers: IdentityProviders) {
  const draft = openDraft(services);
  return {
    providerState: endpoint({
      method: 'GET',
      path: '/sign-in/provider',
      says: "Whether the identity provider's secret is set, and where it is to send browsers back to.",
      entry: draft,
      answers: { 200: form<{ hasSecret: boolean; returnTo: string }>({ hasSecret: yesNo, returnTo: said }) },
      does: async ({ draft: { portal } }) => ({
        hasSecret: await providers.hasSecret(portal.id),
        returnTo: await returnTo({ api: memberCookiePath(portal.slug) }),
      }),
    }),
    setProviderSecret: endpoint({
      method: 'PUT',
      path: '/sign-in/provider/secret',
      says: 'Keeps the client secret of the identity provider, sealed. It holds at once.',
      entry: draft,
      body: Joi.object<{ secret: string }>({ secret: Joi.string().min(1).max(1000).required() }),
      answers: { 204: null },
      does: async ({ draft: { portal }, signed, body }) => {
        await providers.saveSecret(portal.id, body.secret);
        await writeAudit(portal.id, signed, 'set a secret', 'of the identity provider');
      },
    }),
    tryProvider: endpoint({
      method: 'POST',
      path: '/sign-in/provider/try',
      says: 'Asks the identity provider of the draft what it can do, and says what is wrong.',
      entry: draft,
      answers: { 200: form<{ fine: boolean; answer: string }>({ fine: yesNo, answer: said }) },
      does: ({ draft: { portal, definition } }) =>
        triedProvider(providers, portal.id, signInRules(definition).provider),
    }),
    forgetSecondFactor: endpoint({
      method: 'DELETE',
      path: '/members/:member/second-factor',
      says: 'Forgets the second factor of a member who lost it; they set a new one up where a role asks for it.',
      entry: draft,
      params: { member: ownNumber },
      answers: { 204: null },
      does: async ({ draft: { portal }, signed, params }) => {
        const member = await memberOf(portal.id, params.member);
        await SecondFactor.destroy({ where: { memberId: member.id } });
        await writeAudit(portal.id, signed, 'forgot a second factor', `of ${member.name} <${member.email}>`);
      },
    }),
  };
}
