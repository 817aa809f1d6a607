import Joi from 'joi';
import type { CoreServices } from '../definitions/portal-services';
import { form, listOf, said } from '../http/answers';
import { anybody, endpoint } from '../http/endpoint';
import { clearCookie, readCookie, setCookie } from '../http/security';
import type { SignInFailures } from './failures';
import { normaliseEmail } from '../../core/text/email';
import { Builder } from '../store/models';
import { readSetting } from '../store/store';
import { asBuilder, builderCookie, builderCookiePath } from './as-builder';
import { passwordFits } from './passwords';
import { beginSession, endSession } from './sessions';
import { builderRights, type BuilderRight } from './builder-rights';
import { mustWait, signInBody, wrongSignIn } from './sign-in';

/** Whom the demo lets in, with the password that they share. */
export interface DemoPeople {
  people: { email: string; name: string; role: string }[];
  password: string;
}

export const demoPeople = form<DemoPeople>({
  people: listOf(form<DemoPeople['people'][number]>({ email: said, name: said, role: said })),
  password: said,
});

const builderAnswer = form<{ name: string; email: string; right: BuilderRight }>({
  name: said,
  email: said,
  right: Joi.valid(...builderRights),
});

/** Builders sign in and out; `me` says who is signed in. */
export function builderEndpoints(services: CoreServices & { failures: SignInFailures }) {
  return {
    builderDoor: endpoint({
      method: 'GET',
      path: '/door',
      says: 'Says whom the demo lets in as a builder, where it is loaded.',
      entry: anybody,
      answers: { 200: form<{ demo: DemoPeople | null }>({ demo: demoPeople.allow(null) }) },
      does: async () => {
        const demo = await readSetting('demo');
        return { demo: demo ? (JSON.parse(demo) as { builder: DemoPeople }).builder : null };
      },
    }),
    builderSignIn: endpoint({
      method: 'POST',
      path: '/sign-in',
      says: 'Signs a builder in, by a cookie.',
      entry: anybody,
      body: signInBody,
      answers: { 200: builderAnswer },
      does: async ({ body: { email, password }, req, res }) => {
        const who = `builder\n${normaliseEmail(email)}`;
        const address = req.ip ?? '';
        const wait = await services.failures.begin(who, address);
        if (wait > 0) throw mustWait(wait);
        const builder = await Builder.findOne({ where: { email: normaliseEmail(email) } });
        if (!(await passwordFits(builder?.passwordHash, password)) || !builder || builder.suspended)
          throw wrongSignIn();
        await services.failures.succeeded(who, address);
        await builder.update({ lastIn: new Date() });
        const token = await beginSession({ builderId: builder.id }, req.get('user-agent'));
        setCookie(req, res, builderCookie, token, builderCookiePath);
        return { name: builder.name, email: builder.email, right: builder.right };
      },
    }),
    builderSignOut: endpoint({
      method: 'POST',
      path: '/sign-out',
      says: 'Ends the session.',
      entry: anybody,
      answers: { 204: null },
      does: async ({ req, res }) => {
        const token = readCookie(req, builderCookie);
        if (token) await endSession(token);
        clearCookie(req, res, builderCookie, builderCookiePath);
      },
    }),
    builder: endpoint({
      method: 'GET',
      path: '/me',
      says: 'Says which builder is signed in.',
      entry: asBuilder(services),
      answers: { 200: builderAnswer },
      does: ({ builder: { name, email, right } }) => Promise.resolve({ name, email, right }),
    }),
  };
}
