import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { normaliseEmail } from '../../core/text/email';
import { InvalidValues } from '../gate/gate';
import { form, said, yesNo } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { emailAddress } from '../mail/email-schema';
import { linkedBuilder, useUpBuilderLink } from '../sessions/builder-links';
import { firstOwner } from '../sessions/colleague-endpoints';
import { hashPassword } from '../sessions/passwords';
import type { Builder } from '../store/models';
import { Session } from '../store/people-models';
import { AtDoor, type SignInServices } from './at-door';
import { atBenchDoor, builderPersonAtDoor } from './bench-doorway';
import { refuseNotByMail, refuseWeakPassword } from './new-password';
import { cameIn } from './sign-in-endpoints';

const token = Joi.string().max(100).required();

const deadLink = () =>
  new Problem(404, 'link', 'This link was used already, or has ended. Ask an owner for a new one.');

/** Links by which those who build come in: the first time, and when a password is forgotten. */
export function builderLinkEndpoints(services: SignInServices) {
  const door = new AtDoor(services);
  const entry = atBenchDoor(services);
  const linked = async (given: string): Promise<Builder> => {
    const builder = await linkedBuilder(given);
    if (!builder) throw deadLink();
    return builder;
  };
  return {
    lookAtBuilderLink: endpoint({
      method: 'POST',
      path: '/links/look',
      says: 'Whose link it is. Uses nothing up.',
      entry,
      body: Joi.object<{ token: string }>({ token }),
      answers: {
        200: form<{ name: string; email: string; isFirst: boolean; asksPassword: boolean }>({
          name: said,
          email: said,
          isFirst: yesNo,
          asksPassword: yesNo,
        }),
      },
      does: async ({ at, body, req }) => {
        const right = await door.countedFrom(`a link of ${at.key}`, req);
        const { name, email } = await linked(body.token);
        await right();
        return { name, email, isFirst: email === firstOwner, asksPassword: at.rules.methods.includes('password') };
      },
    }),
    useBuilderLink: endpoint({
      method: 'POST',
      path: '/links/use',
      says: 'Comes in by a link, once, with a password where one is asked for. The first owner also says who they are.',
      entry,
      body: Joi.object<{ token: string; password: string; email?: string; name?: string }>({
        token,
        password: Joi.string().max(1000).allow('').default(''),
        email: emailAddress,
        name: Joi.string().trim().min(1).max(120),
      }),
      answers: { 200: cameIn },
      does: async ({ at, body, req, res }) => {
        const right = await door.countedFrom(`a link of ${at.key}`, req);
        const builder = await linked(body.token);
        await right();
        const isFirst = builder.email === firstOwner;
        if (isFirst && (!body.email || !body.name))
          throw new InvalidValues({ email: 'Say who you are: you will sign in by it.' });
        const who = isFirst ? { email: normaliseEmail(body.email!), name: body.name! } : {};
        const person = { ...(await builderPersonAtDoor(builder)), ...who };
        const asksPassword = at.rules.methods.includes('password');
        if (asksPassword) await refuseWeakPassword(at, person, body.password);
        else refuseNotByMail(at);
        const passwordHash = asksPassword ? { passwordHash: await hashPassword(body.password) } : {};
        if (!(await useUpBuilderLink(body.token, builder.id))) throw deadLink();
        if (asksPassword) await Session.destroy({ where: person.subject });
        await builder.update({ ...who, ...passwordHash });
        return door.comeIn(at, person, req, res);
      },
    }),
  };
}
