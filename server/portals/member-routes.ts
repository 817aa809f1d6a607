import { Router } from 'express';
import { clearCookie, readCookie, setCookie } from '../http/security';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import type { Services } from './services';
import { normaliseEmail } from '../../core/text/email';
import { mustWait, signInSchema, wrongSignIn } from '../sessions/builder-routes';
import { passwordFits } from '../sessions/passwords';
import { beginSession, endSession } from '../sessions/sessions';
import { Member, Portal } from '../store/models';
import { readSetting } from '../store/store';
import { recordRoutes } from '../records/record-routes';
import { memberCookie, memberCookiePath, memberVisit } from '../visits/member-visit';

/** The door of each portal, and behind it the member's pages and records. */
export function memberRoutes(services: Services): Router {
  const router = Router();

  /** The portal if it is published; one that isn't and one that never was are the same to the outside. */
  const published = async (slug: string) => {
    const portal = await Portal.findOne({ where: { slug } });
    if (!portal || portal.publishedVersion === null)
      throw new Problem(404, 'not-found', 'There is no portal at this address.');
    return { portal, definition: await services.definitions.version(portal.id, portal.publishedVersion) };
  };

  router.get('/:slug/door', async (req, res) => {
    const { portal, definition } = await published(req.params.slug);
    const demo = await readSetting('demo');
    const people = demo ? (JSON.parse(demo) as { members: Record<string, unknown> }).members[portal.slug] : undefined;
    res.json({ name: definition.portal.name, colour: definition.portal.colour, demo: people ?? null });
  });

  router.post('/:slug/sign-in', async (req, res) => {
    const { email, password } = valid(signInSchema, req.body);
    const { portal } = await published(req.params.slug);
    const who = `${portal.slug}\n${normaliseEmail(email)}`;
    const address = req.ip ?? '';
    const wait = await services.failures.begin(who, address);
    if (wait > 0) throw mustWait(wait);
    const member = await Member.findOne({ where: { portalId: portal.id, email: normaliseEmail(email), active: true } });
    if (!(await passwordFits(member?.passwordHash, password)) || !member) throw wrongSignIn();
    await services.failures.succeeded(who, address);
    setCookie(req, res, memberCookie, await beginSession({ memberId: member.id }), memberCookiePath(portal.slug));
    res.json({ name: member.name });
  });

  router.post('/:slug/sign-out', async (req, res) => {
    const token = readCookie(req, memberCookie);
    if (token) await endSession(token);
    clearCookie(req, res, memberCookie, memberCookiePath(req.params.slug));
    res.status(204).end();
  });

  router.use(
    '/:slug',
    recordRoutes(services.store.sequelize, (req) => memberVisit(services, req, String(req.params.slug))),
  );
  return router;
}
