import { signInRules } from '../../core/sign-in/sign-in-rules';
import { writeAudit } from '../audit/audit';
import { openDraft, type BenchServices } from '../bench/bench';
import { behind, endpoint, ownNumber, type Entry } from '../http/endpoint';
import { memberOf } from '../people/administer';
import { SecondFactor } from '../store/people-models';
import { memberCookiePath } from '../visits/member-visit';
import type { AtProvider } from './provider-setting-endpoints';

/** The identity provider of a portal's draft. */
export const atDraftProvider = (services: BenchServices): Entry<AtProvider> =>
  behind(openDraft(services), ({ draft: { portal, definition }, signed }) =>
    Promise.resolve({
      signed,
      door: { portalId: portal.id, api: memberCookiePath(portal.slug) },
      provider: signInRules(definition).provider,
    }),
  );

/** What builders do for members who can't sign in. */
export function benchSignInEndpoints(services: BenchServices) {
  return {
    forgetSecondFactor: endpoint({
      method: 'DELETE',
      path: '/members/:member/second-factor',
      says: 'Forgets the second factor of a member who lost it; they set a new one up where a role asks for it.',
      entry: openDraft(services),
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
