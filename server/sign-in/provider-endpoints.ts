import type { Request, Response } from 'express';
import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { endpoint, type Entry } from '../http/endpoint';
import { readAddress } from '../mail/own-address';
import { AtDoor, refuseShut, type SignInServices } from './at-door';
import type { Doorway } from './doorway';
import type { SentAway } from './identity-provider';
import { makeTicket, takeTicket } from './tickets';

const awayFor = 10 * 60_000;
const path = Joi.string()
  .max(500)
  .pattern(/^\/[^/\\]|^\/$/, 'a path')
  .default('/');

/** Single sign-on: away to the identity provider, and back. Both are followed by the browser itself. */
export function providerEndpoints(services: SignInServices, entry: Entry<{ at: Doorway }>) {
  const door = new AtDoor(services);
  return {
    toProvider: endpoint({
      method: 'GET',
      path: '/provider',
      says: 'Sends the browser to the identity provider (OpenID Connect, authorization code with PKCE).',
      entry,
      query: Joi.object<{ back: string }>({ back: path }),
      answers: { 302: null },
      does: async ({ at, query, req, res }) => {
        refuseShut(at, 'single sign-on');
        try {
          const config = await services.providers.together(at.portalId, at.rules.provider!);
          const { to, sent } = await services.providers.sendAway(config, await returnTo(at), query.back);
          const browser = door.browser(req, res, at);
          await makeTicket('single sign-on', at, browser, sent, awayFor, sent.state);
          res.setHeader('Location', to);
        } catch (error) {
          toDoor(req, res, at, error);
        }
      },
    }),
    fromProvider: endpoint({
      method: 'GET',
      path: '/provider/back',
      says: 'Where the identity provider sends the browser back to. Signs in whom it vouches for, by a cookie.',
      entry,
      query: Joi.object<Record<string, string>>().unknown(),
      answers: { 302: null },
      does: async ({ at, query, req, res }) => {
        refuseShut(at, 'single sign-on');
        try {
          const right = await door.countedFrom(`provider of ${at.key}`, req);
          const state = typeof query.state === 'string' ? query.state : '';
          const sent = await takeTicket<SentAway>('single sign-on', at, door.knownBrowser(req), state);
          if (!sent)
            throw new Problem(401, 'provider', 'This sign-in was begun in another window or long ago. Begin it again.');
          const config = await services.providers.together(at.portalId, at.rules.provider!);
          const cameBack = new URL(await returnTo(at));
          cameBack.search = new URL(req.originalUrl, cameBack).search;
          const email = await services.providers.emailOf(config, at.rules.provider!, cameBack, sent);
          const person = await at.comeOf(email);
          if (!person)
            throw new Problem(401, 'provider', `${email} is not known here. Sign in with another account, or ask us.`);
          await right();
          const { lacks } = await door.comeIn(at, person, req, res);
          const rest = lacks === null ? '' : `?lacks=${encodeURIComponent(lacks)}`;
          res.setHeader('Location', `${at.page}${sent.back === '/' && at.page !== '' ? '' : sent.back}${rest}`);
        } catch (error) {
          toDoor(req, res, at, error);
        }
      },
    }),
  };
}

/**
 * Leads to the sign-in again, with what went wrong in a cookie that its page reads once: words in an address could be
 * anybody's.
 */
function toDoor(req: Request, res: Response, at: Doorway, error: unknown): void {
  if (!(error instanceof Problem)) throw error;
  const path = at.page || '/';
  res.cookie(at.saidCookie, error.message, { sameSite: 'lax', secure: req.secure, path, maxAge: 60_000 });
  res.setHeader('Location', path);
}

/** Where a provider sends the browser back to. */
export const returnTo = async ({ api, portalId }: Pick<Doorway, 'api' | 'portalId'>): Promise<string> =>
  `${await readAddress(portalId)}${api}/provider/back`;
