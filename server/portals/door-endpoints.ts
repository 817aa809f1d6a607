import { form, said } from '../http/answers';
import { anybody, endpoint } from '../http/endpoint';
import { clearCookie, readCookie, setCookie } from '../http/security';
import { Problem } from '../../core/refusals/problem';
import type { Services } from './services';
import { normaliseEmail } from '../../core/text/email';
import { demoPeople, type DemoPeople } from '../sessions/builder-endpoints';
import { passwordFits } from '../sessions/passwords';
import { endSession } from '../sessions/sessions';
import { letIn, memberAtDoor } from '../sign-in/door';
import { mustWait, signInBody, wrongSignIn } from '../sessions/sign-in';
import { Portal } from '../store/models';
import { readSetting } from '../store/store';
import { memberCookie, memberCookiePath } from '../visits/member-visit';

/** What stands at the door of a portal, before anybody has signed in. */
export interface Door {
  name: string;
  colour: string;
  demo: DemoPeople | null;
}

/** The door of each portal: what is told before signing in, and the way in and out. */
export function doorEndpoints(services: Services) {
  /** The portal if it is published; one that isn't and one that never was are the same to the outside. */
  const published = async (slug: string) => {
    const portal = await Portal.findOne({ where: { slug } });
    if (!portal || portal.publishedVersion === null)
      throw new Problem(404, 'not-found', 'There is no portal at this address.');
    return { portal, definition: await services.definitions.version(portal.id, portal.publishedVersion) };
  };
  return {
    door: endpoint({
      method: 'GET',
      path: '/:slug/door',
      says: 'What a portal is called, for those who have not signed in.',
      entry: anybody,
      answers: { 200: form<Door>({ name: said, colour: said, demo: demoPeople.allow(null) }) },
      does: async ({ params }) => {
        const { portal, definition } = await published(params.slug);
        const demo = await readSetting('demo');
        const people = demo && (JSON.parse(demo) as { members: Record<string, DemoPeople> }).members[portal.slug];
        return { name: definition.portal.name, colour: definition.portal.colour, demo: people || null };
      },
    }),
    signIn: endpoint({
      method: 'POST',
      path: '/:slug/sign-in',
      says: 'Signs a member in, by a cookie.',
      entry: anybody,
      body: signInBody,
      answers: { 200: form<{ name: string }>({ name: said }) },
      does: async ({ params: { slug }, body: { email, password }, req, res }) => {
        const { portal } = await published(slug);
        const known = normaliseEmail(email);
        const who = `${portal.slug}\n${known}`;
        const address = req.ip ?? '';
        const wait = await services.failures.begin(who, address);
        if (wait > 0) throw mustWait(wait);
        const member = await memberAtDoor(services, portal, known);
        if (!(await passwordFits(member?.passwordHash, password)) || !member) throw wrongSignIn();
        await services.failures.succeeded(who, address);
        setCookie(req, res, memberCookie, await letIn(member, req.get('user-agent')), memberCookiePath(portal.slug));
        return { name: member.name };
      },
    }),
    signOut: endpoint({
      method: 'POST',
      path: '/:slug/sign-out',
      says: 'Ends the session.',
      entry: anybody,
      answers: { 204: null },
      does: async ({ params: { slug }, req, res }) => {
        const token = readCookie(req, memberCookie);
        if (token) await endSession(token);
        clearCookie(req, res, memberCookie, memberCookiePath(slug));
      },
    }),
  };
}
