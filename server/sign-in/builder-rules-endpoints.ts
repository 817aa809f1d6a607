import Joi from 'joi';
import { signInSchema } from '../../core/definition/sign-in-schema';
import { Problem } from '../../core/refusals/problem';
import type { KnownSignInRules, SignInRules } from '../../core/sign-in/sign-in-rules';
import { writeAudit } from '../audit/audit';
import { form, yesNo } from '../http/answers';
import { behind, endpoint, type Entry } from '../http/endpoint';
import { asOwner, builderCookiePath } from '../sessions/as-builder';
import { builderRights } from '../sessions/builder-rights';
import { readBuilderRules, saveBuilderRules } from '../sessions/builder-rules';
import type { SignInServices } from './at-door';
import type { AtProvider } from './provider-setting-endpoints';

/** How those who build sign in. */
export interface BuilderSignIn {
  rules: KnownSignInRules;
  hasMailServer: boolean;
}

const path = '/sign-in/rules';
const rulesOfBuilders = signInSchema(Joi.valid(...builderRights));

/** The identity provider of the bench's door, for owners. */
export const atBenchProvider = (services: SignInServices): Entry<AtProvider> =>
  behind(asOwner(services), async ({ signed }) => ({
    signed,
    door: { portalId: null, api: builderCookiePath },
    provider: (await readBuilderRules()).provider,
  }));

/** How those who build sign in, set by owners. It holds at once, so what would let nobody in is refused. */
export function builderRulesEndpoints(services: SignInServices) {
  const entry = asOwner(services);
  const { providers, mailServers } = services;
  /** A way in is open only once it was seen to lead somewhere. */
  const refuseNoWay = async (next: SignInRules, now: KnownSignInRules): Promise<void> => {
    if (next.methods.includes('code') && (await mailServers.read()) === null)
      throw new Problem(409, 'no-mail-server', 'Codes go by e-mail, and no mail server is set. Set it in an outbox.');
    const isSameProvider = JSON.stringify(next.provider) === JSON.stringify(now.provider);
    if (next.methods.includes('single sign-on') && !(isSameProvider && now.methods.includes('single sign-on')))
      await providers.discover(null, next.provider!);
  };
  return {
    builderRules: endpoint({
      method: 'GET',
      path,
      says: 'How those who build sign in. For owners.',
      entry,
      answers: {
        200: form<BuilderSignIn>({
          rules: Joi.object<KnownSignInRules>().unknown(),
          hasMailServer: yesNo,
        }),
      },
      does: async () => ({
        rules: await readBuilderRules(),
        hasMailServer: (await mailServers.read()) !== null,
      }),
    }),
    setBuilderRules: endpoint({
      method: 'PUT',
      path,
      says: 'Sets how those who build sign in. It holds at once; a way that leads nowhere is refused.',
      entry,
      body: rulesOfBuilders,
      answers: { 204: null },
      does: async ({ signed, body }) => {
        await refuseNoWay(body, await readBuilderRules());
        await saveBuilderRules(body);
        const second = body.secondFactor ? `; a second factor is asked of each ${body.secondFactor.join(', ')}` : '';
        await writeAudit(null, signed, 'set how builders sign in', `${body.methods.join(', ')}${second}`);
      },
    }),
  };
}
