import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { passwordProblem, shortestPassword } from '../../core/sign-in/password-rules';
import { signInMethods, type SignInMethod } from '../../core/sign-in/sign-in-rules';
import { normaliseEmail } from '../../core/text/email';
import { form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { anybody, endpoint } from '../http/endpoint';
import { clearCookie, readCookie } from '../http/security';
import { useUp, workingLink } from '../people/links';
import { demoPeople, type DemoPeople } from '../sessions/builder-endpoints';
import { hashPassword, passwordFits } from '../sessions/passwords';
import { endSession, endSessionsOf } from '../sessions/sessions';
import { signInBody, wrongSignIn } from '../sessions/sign-in';
import type { MailLink } from '../store/people-models';
import { readSetting } from '../store/store';
import { memberCookie, memberCookiePath } from '../visits/member-visit';
import { commonPasswords } from '../sessions/common-passwords';
import { AtDoor, type CameIn, type SignInServices } from './at-door';
import { memberAtDoor } from './door';
import { evenly } from './even-steps';

/** What stands at the door of a portal, before anybody has signed in. */
export interface Door {
  name: string;
  colour: string;
  methods: SignInMethod[];
  /** What the button of single sign-on says. */
  provider: string | null;
  /** Whoever has an address of these domains can come in. */
  openTo: string[] | null;
  demo: DemoPeople | null;
  /** Where the demo's mails are read. */
  mailBox: string | null;
}

/** What a link is for, told to whoever holds it. */
export interface LinkInfo {
  kind: MailLink['kind'];
  name: string;
  email: string;
  /** Whether a password is to be chosen with it. */
  asksPassword: boolean;
}

const email = Joi.string().max(254).required();
const token = Joi.string().max(100).required();
/** Somebody who is in, or one step before it. */
export const cameIn = form<CameIn>({ name: said, lacks: Joi.valid('second factor', 'new second factor', null) });

const deadLink = () =>
  new Problem(
    404,
    'link',
    'This link was used already, or has ended. Ask for a new one at the sign-in, or ask whoever sent it to you.',
  );

/** The door of each portal: what is told before signing in, and the ways in and out. */
export function signInEndpoints(services: SignInServices) {
  const door = new AtDoor(services);

  /** A link that works, and whether a password goes with it. */
  const linkAt = async (slug: string, given: string) => {
    const at = await door.published(slug);
    const found = await workingLink(at.portal.id, given);
    const member = found && (await memberAtDoor(services, at.portal, found.member.email));
    if (!found || member?.id !== found.member.id) throw deadLink();
    const hasPasswords = at.rules.methods.includes('password');
    const isFirst = found.link.kind === 'invitation' && member.passwordHash === null;
    return {
      ...at,
      link: found.link,
      member,
      asksPassword: hasPasswords && (found.link.kind === 'password' || isFirst),
    };
  };

  return {
    door: endpoint({
      method: 'GET',
      path: '/:slug/door',
      says: 'What a portal is called and how people sign in, for those who have not signed in.',
      entry: anybody,
      answers: {
        200: form<Door>({
          name: said,
          colour: said,
          methods: listOf(Joi.valid(...signInMethods)),
          provider: saidOrNull,
          openTo: listOf(said).allow(null),
          demo: demoPeople.allow(null),
          mailBox: saidOrNull,
        }),
      },
      does: async ({ params }) => {
        const { portal, definition, rules } = await door.published(params.slug);
        const demo = await readSetting('demo');
        const people = demo && (JSON.parse(demo) as { members: Record<string, DemoPeople> }).members[portal.slug];
        return {
          name: definition.portal.name,
          colour: definition.portal.colour,
          methods: rules.methods,
          provider: rules.methods.includes('single sign-on') ? (rules.provider?.label ?? null) : null,
          openTo: definition.openTo?.domains ?? null,
          demo: people || null,
          mailBox: people ? await readSetting('mail box') : null,
        };
      },
    }),
    signIn: endpoint({
      method: 'POST',
      path: '/:slug/sign-in',
      says: 'Signs a member in by their password, by a cookie.',
      entry: anybody,
      body: signInBody,
      answers: { 200: cameIn },
      does: ({ params: { slug }, body: { email: given, password }, req, res }) =>
        evenly(async () => {
          const at = await door.with(slug, 'password');
          const { portal } = at;
          const known = normaliseEmail(given);
          const right = await door.counted(`${portal.slug}\n${known}`, req);
          const member = await memberAtDoor(services, portal, known);
          if (!(await passwordFits(member?.passwordHash, password)) || !member) throw wrongSignIn();
          await right();
          return door.comeIn(at, member, req, res);
        }, true),
    }),
    call: endpoint({
      method: 'POST',
      path: '/:slug/calls',
      says:
        'Asks for a code, or for a link to choose a new password, by e-mail. The answer is the same for every ' +
        'address; a mail goes to those who may come in.',
      entry: anybody,
      body: Joi.object<{ email: string; wants: 'code' | 'password' }>({
        email,
        wants: Joi.valid('code', 'password').required(),
      }),
      answers: { 202: null },
      does: ({ params: { slug }, body, req, res }) =>
        evenly(async () => {
          const { portal } = await door.with(slug, body.wants);
          await door.counted(`${body.wants} for ${portal.slug}\n${normaliseEmail(body.email)}`, req);
          await services.calls.note(portal.id, body.email, body.wants, door.browser(req, res, slug));
        }),
    }),
    signInByCode: endpoint({
      method: 'POST',
      path: '/:slug/sign-in/code',
      says: 'Signs a member in by the code that was sent to them, by a cookie.',
      entry: anybody,
      body: Joi.object<{ email: string; code: string }>({ email, code: Joi.string().max(20).required() }),
      answers: { 200: cameIn },
      does: ({ params: { slug }, body, req, res }) =>
        evenly(async () => {
          const at = await door.with(slug, 'code');
          const { portal } = at;
          const known = normaliseEmail(body.email);
          const right = await door.counted(`${portal.slug}\n${known}`, req);
          const typed = body.code.replaceAll(/\s/g, '');
          const outcome = await services.calls.tryCode(portal.id, known, door.knownBrowser(req), typed);
          const member = await memberAtDoor(services, portal, known);
          if (outcome === 'too many tries')
            throw new Problem(401, 'wrong-code', 'This code was tried too often. Ask for a new one.');
          if (outcome !== 'right' || !member)
            throw new Problem(
              401,
              'wrong-code',
              'The code is wrong, or it has ended or was used. Check it, or ask for a new one.',
            );
          await right();
          await services.failures.succeeded(`code for ${portal.slug}\n${known}`, req.ip ?? '');
          return door.comeIn(at, member, req, res);
        }, true),
    }),
    lookAtLink: endpoint({
      method: 'POST',
      path: '/:slug/links/look',
      says: 'What a link is for. Uses nothing up: programs that read mail open links, too.',
      entry: anybody,
      body: Joi.object<{ token: string }>({ token }),
      answers: {
        200: form<LinkInfo>({
          kind: Joi.valid('invitation', 'password'),
          name: said,
          email: said,
          asksPassword: yesNo,
        }),
      },
      does: async ({ params: { slug }, body, req }) => {
        const right = await door.countedFrom(`a link of ${slug}`, req);
        const { link, member, asksPassword } = await linkAt(slug, body.token);
        await right();
        return { kind: link.kind, name: member.name, email: member.email, asksPassword };
      },
    }),
    useLink: endpoint({
      method: 'POST',
      path: '/:slug/links/use',
      says: 'Comes in by a link, once, with the password that is chosen where one is asked for.',
      entry: anybody,
      body: Joi.object<{ token: string; password: string | null }>({
        token,
        password: Joi.string().max(1000).allow(null).default(null),
      }),
      answers: { 200: cameIn },
      does: async ({ params: { slug }, body: { token: given, password }, req, res }) => {
        const right = await door.countedFrom(`a link of ${slug}`, req);
        const { link, member, asksPassword, ...at } = await linkAt(slug, given);
        const { definition, rules } = at;
        await right();
        if (asksPassword) {
          const owner = { name: member.name, email: member.email, portal: definition.portal.name };
          const isBeside = await door.asksSecond(definition, rules, member);
          const shortest = isBeside ? shortestPassword.besideAnother : shortestPassword.alone;
          const problem = passwordProblem(password ?? '', owner, await commonPasswords(), shortest);
          if (problem !== null)
            throw new Problem(422, 'invalid-values', 'Some values are wrong.', { fields: { password: problem } });
        } else if (!rules.methods.includes('code')) {
          // What proves an address here is none of the portal's ways in.
          throw new Problem(409, 'sign-in', `Sign in with ${rules.methods.join(' or ')}; the link is not needed.`);
        }
        if (!(await useUp(link))) throw deadLink();
        if (asksPassword) {
          await member.update({ passwordHash: await hashPassword(password!) });
          await endSessionsOf([member.id]);
        }
        return door.comeIn(at, member, req, res);
      },
    }),
    signOut: endpoint({
      method: 'POST',
      path: '/:slug/sign-out',
      says: 'Ends the session.',
      entry: anybody,
      answers: { 204: null },
      does: async ({ params: { slug }, req, res }) => {
        const session = readCookie(req, memberCookie);
        if (session) await endSession(session);
        clearCookie(req, res, memberCookie, memberCookiePath(slug));
      },
    }),
  };
}
