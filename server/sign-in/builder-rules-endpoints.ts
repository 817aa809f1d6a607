import Joi from 'joi';
import { signInSchema } from '../../core/definition/sign-in-schema';
import { Problem } from '../../core/refusals/problem';
import type { KnownSignInRules, SignInRules } from '../../core/sign-in/sign-in-rules';
import { writeAudit } from '../audit/audit';
import { form, said, yesNo } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { asOwner } from '../sessions/as-builder';
import { builderRights } from '../sessions/builder-rights';
import { readBuilderRules, saveBuilderRules } from '../sessions/builder-rules';
import type { SignInServices } from './at-door';
import { benchDoorway } from './bench-doorway';
import { returnTo } from './provider-endpoints';
import { triedProvider } from './tried-provider';

/** How those who build sign in. */
export interface BuilderSignIn {
  rules: KnownSignInRules;
  hasMailServer: boolean;
  /** Whether the identity provider's secret is set, and where it is to send browsers back to. */
  hasSecret: boolean;
  returnTo: string;
}

const path = '/sign-in/rules';
const rulesOfBuilders = signInSchema(Joi.valid(...builderRights));

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
          hasSecret: yesNo,
          returnTo: said,
        }),
      },
      does: async () => ({
        rules: await readBuilderRules(),
        hasMailServer: (await mailServers.read()) !== null,
        hasSecret: await providers.hasSecret(null),
        returnTo: await returnTo(await benchDoorway(services)),
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
    setBuilderSecret: endpoint({
      method: 'PUT',
      path: '/sign-in/provider/secret',
      says: 'Keeps the client secret of the identity provider, sealed. It holds at once.',
      entry,
      body: Joi.object<{ secret: string }>({ secret: Joi.string().min(1).max(1000).required() }),
      answers: { 204: null },
      does: async ({ signed, body }) => {
        await providers.saveSecret(null, body.secret);
        await writeAudit(null, signed, 'set a secret', 'of the identity provider');
      },
    }),
    tryBuilderProvider: endpoint({
      method: 'POST',
      path: '/sign-in/provider/try',
      says: 'Asks the identity provider what it can do, and says what is wrong.',
      entry,
      answers: { 200: form<{ fine: boolean; answer: string }>({ fine: yesNo, answer: said }) },
      does: async () => triedProvider(providers, null, (await readBuilderRules()).provider),
    }),
  };
}
