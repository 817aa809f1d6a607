import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { signInMethods, type SignInMethod } from '../../core/sign-in/sign-in-rules';
import { normaliseEmail } from '../../core/text/email';
import { form, listOf, said, saidOrNull, yesNo } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { clearCookie, readCookie } from '../http/security';
import { demoAt, demoPeople, type DemoPeople } from './demo-people';
import { passwordFits } from '../sessions/passwords';
import { endSession } from '../sessions/sessions';
import { signInBody, wrongSignIn } from '../sessions/sign-in';
import { readSetting } from '../store/store';
import { AtDoor, refuseShut, type CameIn, type SignInServices } from './at-door';
import { lookTold } from '../pages/look-answers';
import type { DoorFace, Doorway } from './doorway';
import { evenly } from './even-steps';

/** What stands at a door, before anybody has signed in. */
export interface Door {
  name: string;
  face: DoorFace | null;
  methods: SignInMethod[];
  /** What the button of single sign-on says. */
  provider: string | null;
  /** Whoever has an address of these domains can come in. */
  openTo: string[] | null;
  /** Some pages are open without signing in. */
  isPublic: boolean;
  demo: DemoPeople | null;
  /** Where the demo's mails are read. */
  mailBox: string | null;
}

const email = Joi.string().max(254).required();
/** Milliseconds that no hash of a password takes where a server has time. */
const hashingStep = 100;
/** Somebody who is in, or one step before it. */
export const cameIn = form<CameIn>({ name: said, lacks: Joi.valid('second factor', 'new second factor', null) });

/** A door: what is told before signing in, and the ways in and out. */
export function signInEndpoints(services: SignInServices, entry: Entry<{ at: Doorway }>) {
  const door = new AtDoor(services);
  return {
    door: endpoint({
      method: 'GET',
      path: '/door',
      says: 'What is behind the door and how people sign in, for those who have not signed in.',
      entry,
      answers: {
        200: form<Door>({
          name: said,
          face: form<DoorFace>({ look: lookTold, logo: saidOrNull, welcome: saidOrNull }).allow(null),
          methods: listOf(Joi.valid(...signInMethods)),
          provider: saidOrNull,
          openTo: listOf(said).allow(null),
          isPublic: yesNo,
          demo: demoPeople.allow(null),
          mailBox: saidOrNull,
        }),
      },
      does: async ({ at }) => {
        const demo = await demoAt(at);
        return {
          name: at.title,
          face: at.face,
          methods: at.rules.methods,
          provider: at.rules.methods.includes('single sign-on') ? (at.rules.provider?.label ?? null) : null,
          openTo: at.openTo,
          isPublic: at.isPublic,
          demo,
          mailBox: demo ? await readSetting('mail box') : null,
        };
      },
    }),
    signIn: endpoint({
      method: 'POST',
      path: '/sign-in',
      says: 'Signs somebody in by their password, by a cookie.',
      entry,
      body: signInBody,
      answers: { 200: cameIn },
      does: ({ at, body: { email: given, password }, req, res }) =>
        evenly(
          async () => {
            refuseShut(at, 'password');
            const known = normaliseEmail(given);
            const right = await door.counted(`${at.key}\n${known}`, req);
            const person = await at.personOf(known);
            if (!(await passwordFits(person?.passwordHash, password)) || !person) throw wrongSignIn();
            await right();
            return door.comeIn(at, person, req, res);
          },
          { faultsAlone: true, step: hashingStep },
        ),
    }),
    call: endpoint({
      method: 'POST',
      path: '/calls',
      says:
        'Asks for a code, or for a link to choose a new password, by e-mail. The answer is the same for every ' +
        'address; a mail goes to those who may come in.',
      entry,
      body: Joi.object<{ email: string; wants: 'code' | 'password' }>({
        email,
        wants: Joi.valid('code', 'password').required(),
      }),
      answers: { 202: null },
      does: ({ at, body, req, res }) =>
        evenly(async () => {
          refuseShut(at, body.wants);
          await door.counted(`${body.wants} for ${at.key}\n${normaliseEmail(body.email)}`, req);
          await services.calls.note(at, body.email, body.wants, door.browser(req, res, at));
        }),
    }),
    signInByCode: endpoint({
      method: 'POST',
      path: '/sign-in/code',
      says: 'Signs somebody in by the code that was sent to them, by a cookie.',
      entry,
      body: Joi.object<{ email: string; code: string }>({ email, code: Joi.string().max(20).required() }),
      answers: { 200: cameIn },
      does: ({ at, body, req, res }) =>
        evenly(
          async () => {
            refuseShut(at, 'code');
            const known = normaliseEmail(body.email);
            const right = await door.counted(`${at.key}\n${known}`, req);
            const typed = body.code.replaceAll(/\s/g, '');
            const outcome = await services.calls.tryCode(at, known, door.knownBrowser(req), typed);
            const person = await at.personOf(known);
            if (outcome === 'too many tries')
              throw new Problem(401, 'wrong-code', 'This code was tried too often. Ask for a new one.');
            if (outcome !== 'right' || !person)
              throw new Problem(
                401,
                'wrong-code',
                'The code is wrong, or it has ended or was used. Check it, or ask for a new one.',
              );
            await right();
            await services.failures.succeeded(`code for ${at.key}\n${known}`, req.ip ?? '');
            return door.comeIn(at, person, req, res);
          },
          { faultsAlone: true },
        ),
    }),
    signOut: endpoint({
      method: 'POST',
      path: '/sign-out',
      says: 'Ends the session.',
      entry,
      answers: { 204: null },
      does: async ({ at, req, res }) => {
        const session = readCookie(req, at.cookie);
        if (session) await endSession(session);
        clearCookie(req, res, at.cookie, at.api);
      },
    }),
  };
}
