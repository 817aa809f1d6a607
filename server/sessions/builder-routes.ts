import { Router, type Request, type RequestHandler } from 'express';
import Joi from 'joi';
import { clearCookie, readCookie, setCookie } from '../http/security';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import type { CoreServices } from '../definitions/portal-services';
import type { SignInFailures } from './failures';
import { normaliseEmail } from '../../core/text/email';
import { Builder, Session } from '../store/models';
import { readSetting } from '../store/store';
import { passwordFits } from './passwords';
import { beginSession, endSession, sessionHolds, tokenHash, touchSession } from './sessions';

const cookie = 'stone_porch_builder';
const path = '/api/builder';

export const signInSchema = Joi.object<{ email: string; password: string }>({
  email: Joi.string().max(254).required(),
  password: Joi.string().max(1000).required(),
});

/** The same words whether the e-mail or the password is wrong. */
export const wrongSignIn = () =>
  new Problem(401, 'wrong-sign-in', 'The e-mail or the password is wrong. Check both and try again.');

export function mustWait(seconds: number): Problem {
  const minutes = Math.ceil(seconds / 60);
  return new Problem(
    429,
    'too-many-tries',
    `Too many wrong tries. Wait ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}, then try again.`,
    { wait: seconds },
    { 'Retry-After': String(seconds) },
  );
}

/** Builders sign in and out; `me` says who is signed in. */
export function builderSessionRoutes(services: CoreServices & { failures: SignInFailures }): Router {
  const router = Router();
  router.get('/door', async (_req, res) => {
    res.json({ demo: (await readSetting('demo')) ? JSON.parse((await readSetting('demo'))!).builder : null });
  });
  router.post('/sign-in', async (req, res) => {
    const { email, password } = valid(signInSchema, req.body);
    const who = `builder\n${normaliseEmail(email)}`;
    const address = req.ip ?? '';
    const wait = await services.failures.begin(who, address);
    if (wait > 0) throw mustWait(wait);
    const builder = await Builder.findOne({ where: { email: normaliseEmail(email) } });
    if (!(await passwordFits(builder?.passwordHash, password)) || !builder) throw wrongSignIn();
    await services.failures.succeeded(who, address);
    setCookie(req, res, cookie, await beginSession({ builderId: builder.id }), path);
    res.json({ name: builder.name, email: builder.email });
  });
  router.post('/sign-out', async (req, res) => {
    const token = readCookie(req, cookie);
    if (token) await endSession(token);
    clearCookie(req, res, cookie, path);
    res.status(204).end();
  });
  router.get('/me', async (req, res) => {
    const builder = await signedInBuilder(req);
    res.json({ name: builder.name, email: builder.email });
  });
  return router;
}

/** The builder of the request's session; a Problem 401 when there is none. */
async function signedInBuilder(req: Request): Promise<Builder> {
  const token = readCookie(req, cookie);
  const session = token ? await Session.findByPk(tokenHash(token)) : null;
  const now = new Date();
  const builder = session?.builderId && sessionHolds(session, now) ? await Builder.findByPk(session.builderId) : null;
  if (!session || !builder)
    throw new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');
  await touchSession(session, now);
  return builder;
}

/** Lets only signed-in builders pass. */
export const buildersOnly: RequestHandler = async (req, res, next) => {
  res.locals.builder = await signedInBuilder(req);
  next();
};
