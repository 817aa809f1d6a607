import type { Request, Response } from 'express';
import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { anybody, endpoint } from '../http/endpoint';
import { readAddress } from '../mail/own-address';
import { AtDoor, type SignInServices } from './at-door';
import { memberAtDoor } from './door';
import type { SentAway } from './identity-provider';
import { comeByDomain } from './open-door';
import { makeTicket, takeTicket } from './tickets';

const awayFor = 10 * 60_000;
const path = Joi.string()
  .max(500)
  .pattern(/^\/[^/\\]|^\/$/, 'a path')
  .default('/');

/** Single sign-on: away to the identity provider, and back. Both are followed by the browser itself. */
export function providerEndpoints(services: SignInServices) {
  const door = new AtDoor(services);
  const returnTo = async (slug: string) => `${await readAddress()}/api/portals/${slug}/provider/back`;
  return {
    toProvider: endpoint({
      method: 'GET',
      path: '/:slug/provider',
      says: 'Sends the browser to the identity provider of the portal (OpenID Connect, authorization code with PKCE).',
      entry: anybody,
      query: Joi.object<{ back: string }>({ back: path }),
      answers: { 302: null },
      does: async ({ params: { slug }, query, req, res }) => {
        const { portal, rules } = await door.with(slug, 'single sign-on');
        try {
          const config = await services.providers.together(portal.id, rules.provider!);
          const { to, sent } = await services.providers.sendAway(config, await returnTo(slug), query.back);
          const browser = door.browser(req, res, slug);
          await makeTicket('single sign-on', portal.id, browser, sent, awayFor, sent.state);
          res.setHeader('Location', to);
        } catch (error) {
          toDoor(req, res, slug, error);
        }
      },
    }),
    fromProvider: endpoint({
      method: 'GET',
      path: '/:slug/provider/back',
      says: 'Where the identity provider sends the browser back to. Signs in whom it vouches for, by a cookie.',
      entry: anybody,
      query: Joi.object<Record<string, string>>().unknown(),
      answers: { 302: null },
      does: async ({ params: { slug }, query, req, res }) => {
        const at = await door.with(slug, 'single sign-on');
        try {
          const right = await door.countedFrom(`provider of ${slug}`, req);
          const state = typeof query.state === 'string' ? query.state : '';
          const sent = await takeTicket<SentAway>('single sign-on', at.portal.id, door.knownBrowser(req), state);
          if (!sent)
            throw new Problem(401, 'provider', 'This sign-in was begun in another window or long ago. Begin it again.');
          const config = await services.providers.together(at.portal.id, at.rules.provider!);
          const cameBack = new URL(await returnTo(slug));
          cameBack.search = new URL(req.originalUrl, cameBack).search;
          const email = await services.providers.emailOf(config, at.rules.provider!, cameBack, sent);
          const known = await memberAtDoor(services, at.portal, email);
          const member = known ?? (await comeByDomain(services, at.portal, email));
          if (!member)
            throw new Problem(401, 'provider', `${email} is not known here. Sign in with another account, or ask us.`);
          await right();
          const { lacks } = await door.comeIn(at, member, req, res);
          const rest = lacks === null ? '' : `?lacks=${encodeURIComponent(lacks)}`;
          res.setHeader('Location', `/p/${slug}${sent.back === '/' ? '' : sent.back}${rest}`);
        } catch (error) {
          toDoor(req, res, slug, error);
        }
      },
    }),
  };
}

/**
 * Leads to the sign-in again, with what went wrong in a cookie that its page reads once: words in an address could be
 * anybody's.
 */
function toDoor(req: Request, res: Response, slug: string, error: unknown): void {
  if (!(error instanceof Problem)) throw error;
  const path = `/p/${slug}`;
  res.cookie(saidCookie, error.message, { sameSite: 'lax', secure: req.secure, path, maxAge: 60_000 });
  res.setHeader('Location', path);
}

const saidCookie = 'stone_porch_said';
