import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { form, said, yesNo } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { useUp, workingLink } from '../people/links';
import { hashPassword } from '../sessions/passwords';
import { Session, type MailLink } from '../store/people-models';
import { AtDoor, type SignInServices } from './at-door';
import { memberAtDoor } from './door';
import { refuseNotByMail, refuseWeakPassword } from './new-password';
import { memberPersonAtDoor, type PortalDoorway } from './portal-doorway';
import { cameIn } from './sign-in-endpoints';

/** What a link is for, told to whoever holds it. */
export interface LinkInfo {
  kind: MailLink['kind'];
  name: string;
  email: string;
  /** Whether a password is to be chosen with it. */
  asksPassword: boolean;
}

const token = Joi.string().max(100).required();

const deadLink = () =>
  new Problem(
    404,
    'link',
    'This link was used already, or has ended. Ask for a new one at the sign-in, or ask whoever sent it to you.',
  );

/** Links of mails that lead a member in: of an invitation, and to a new password. */
export function linkEndpoints(services: SignInServices, entry: Entry<{ at: PortalDoorway }>) {
  const door = new AtDoor(services);

  /** A link that works, and whether a password goes with it. */
  const linkAt = async (at: PortalDoorway, given: string) => {
    const found = await workingLink(at.portal.id, given);
    const member = found && (await memberAtDoor(services, at.portal, found.member.email));
    if (!found || member?.id !== found.member.id) throw deadLink();
    const hasPasswords = at.rules.methods.includes('password');
    const isFirst = found.link.kind === 'invitation' && member.passwordHash === null;
    return {
      link: found.link,
      person: memberPersonAtDoor(member),
      asksPassword: hasPasswords && (found.link.kind === 'password' || isFirst),
    };
  };

  return {
    lookAtLink: endpoint({
      method: 'POST',
      path: '/links/look',
      says: 'What a link is for. Uses nothing up: programs that read mail open links, too.',
      entry,
      body: Joi.object<{ token: string }>({ token }),
      answers: {
        200: form<LinkInfo>({
          kind: Joi.valid('invitation', 'password'),
          name: said,
          email: said,
          asksPassword: yesNo,
        }),
      },
      does: async ({ at, body, req }) => {
        const right = await door.countedFrom(`a link of ${at.key}`, req);
        const { link, person, asksPassword } = await linkAt(at, body.token);
        await right();
        return { kind: link.kind, name: person.name, email: person.email, asksPassword };
      },
    }),
    useLink: endpoint({
      method: 'POST',
      path: '/links/use',
      says: 'Comes in by a link, once, with the password that is chosen where one is asked for.',
      entry,
      body: Joi.object<{ token: string; password: string | null }>({
        token,
        password: Joi.string().max(1000).allow(null).default(null),
      }),
      answers: { 200: cameIn },
      does: async ({ at, body: { token: given, password }, req, res }) => {
        const right = await door.countedFrom(`a link of ${at.key}`, req);
        const { link, person, asksPassword } = await linkAt(at, given);
        await right();
        if (asksPassword) await refuseWeakPassword(at, person, password ?? '');
        else refuseNotByMail(at);
        if (!(await useUp(link))) throw deadLink();
        if (asksPassword) {
          await at.savePassword(person, await hashPassword(password!));
          await Session.destroy({ where: person.subject });
        }
        return door.comeIn(at, person, req, res);
      },
    }),
  };
}
