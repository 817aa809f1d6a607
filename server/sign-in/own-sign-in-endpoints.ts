import type { Request } from 'express';
import Joi from 'joi';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { signInMethods, type SignInMethod } from '../../core/sign-in/sign-in-rules';
import type { CoreServices } from '../definitions/portal-services';
import { InvalidValues, NotFound } from '../gate/gate';
import { form, listOf, moment, said, saidOrNull, whole, yesNo } from '../http/answers';
import { behind, endpoint, ownNumber, type Entry } from '../http/endpoint';
import { readCookie } from '../http/security';
import { asOneself } from '../sessions/as-builder';
import { deviceName } from '../sessions/device';
import { hashPassword, passwordFits } from '../sessions/passwords';
import { tokenHash } from '../sessions/sessions';
import { Passkey, SecondFactor, Session } from '../store/people-models';
import { asMember } from '../visits/entries';
import { AtDoor, notSignedIn, type SignInServices } from './at-door';
import { benchDoorway, builderPersonAtDoor } from './bench-doorway';
import { subjectName, type Doorway, type Person } from './doorway';
import { refuseWeakPassword } from './new-password';
import { portalDoorway, publishedPortal } from './portal-doorway';

/** A session of one's own, as it may be told. */
export interface OwnSession {
  id: number;
  device: string | null;
  beganAt: string | null;
  lastUsed: string;
  /** The one that asks. */
  isThis: boolean;
}

export interface OwnPasskey {
  id: string;
  name: string;
  madeAt: string;
  usedAt: string | null;
}

/** How somebody signs in, as they see it themselves. */
export interface OwnSignIn {
  methods: SignInMethod[];
  hasPassword: boolean;
  passkeys: OwnPasskey[];
  hasSecondFactor: boolean;
  /** It is asked of them, so it can't be taken away. */
  isSecondFactorAsked: boolean;
  sessions: OwnSession[];
}

const momentOrNull = moment.allow(null);

/** Whoever is in, at which door. */
export interface AsOneself {
  at: Doorway;
  person: Person;
}

/** A member who sees to their own way in. */
export const memberAsOneself = (services: CoreServices): Entry<AsOneself> =>
  behind(asMember(services), async ({ visit }, req) => {
    const at = portalDoorway(services, await publishedPortal(services, String(req.params.slug)));
    const person = await at.known({ memberId: visit.person.id! });
    if (!person) throw notSignedIn();
    return { at, person };
  });

/** As `memberAsOneself`, of those who build. */
export const builderAsOneself = (services: CoreServices): Entry<AsOneself> =>
  behind(asOneself(services), async ({ builder }) => ({
    at: await benchDoorway(services),
    person: await builderPersonAtDoor(builder),
  }));

/** What people see and change of their own way in: sessions, password, passkeys, second factor. */
export function ownSignInEndpoints(entry: Entry<AsOneself>, services: Pick<SignInServices, 'failures'>) {
  const door = new AtDoor(services);
  const thisSession = (req: Request, at: Doorway): string => tokenHash(readCookie(req, at.cookie) ?? '');
  const endOthers = ({ at, person }: AsOneself, req: Request) =>
    Session.destroy({ where: { ...person.subject, tokenHash: { [Op.ne]: thisSession(req, at) } } });
  return {
    ownSignIn: endpoint({
      method: 'GET',
      path: '/own/sign-in',
      says: 'How whoever is signed in proves who they are, and where they are signed in.',
      entry,
      answers: {
        200: form<OwnSignIn>({
          methods: listOf(Joi.valid(...signInMethods)),
          hasPassword: yesNo,
          passkeys: listOf(form<OwnPasskey>({ id: said, name: said, madeAt: moment, usedAt: momentOrNull })),
          hasSecondFactor: yesNo,
          isSecondFactorAsked: yesNo,
          sessions: listOf(
            form<OwnSession>({
              id: whole,
              device: saidOrNull,
              beganAt: momentOrNull,
              lastUsed: moment,
              isThis: yesNo,
            }),
          ),
        }),
      },
      does: async ({ at, person, req }) => {
        const where = person.subject;
        const [passkeys, sessions] = await Promise.all([
          Passkey.findAll({ where, order: [['madeAt', 'ASC']] }),
          Session.findAll({ where, order: [['seenAt', 'DESC']] }),
        ]);
        return {
          methods: at.rules.methods,
          hasPassword: person.passwordHash !== null,
          passkeys: passkeys.map(({ id, name, madeAt, usedAt }) => ({
            id,
            name,
            madeAt: madeAt.toISOString(),
            usedAt: usedAt?.toISOString() ?? null,
          })),
          hasSecondFactor: person.hasSecondFactor,
          isSecondFactorAsked: await at.asksSecond(person),
          sessions: sessions.map((session) => ({
            id: session.id,
            device: deviceName(session.device),
            beganAt: session.beganAt?.toISOString() ?? null,
            lastUsed: session.seenAt.toISOString(),
            isThis: session.tokenHash === thisSession(req, at),
          })),
        };
      },
    }),
    endOwnSession: endpoint({
      method: 'DELETE',
      path: '/own/sessions/:session',
      says: 'Ends another session of whoever is signed in.',
      entry,
      params: { session: ownNumber },
      answers: { 204: null },
      does: async ({ person, params }) => {
        const ended = await Session.destroy({ where: { ...person.subject, id: params.session } });
        if (ended !== 1) throw new NotFound('session');
      },
    }),
    endOtherSessions: endpoint({
      method: 'DELETE',
      path: '/own/sessions',
      says: 'Ends all other sessions of whoever is signed in.',
      entry,
      answers: { 204: null },
      does: async ({ req, ...own }) => void (await endOthers(own, req)),
    }),
    changeOwnPassword: endpoint({
      method: 'PUT',
      path: '/own/password',
      says: 'Changes the password of whoever is signed in, who gives the old one; all other sessions end.',
      entry,
      body: Joi.object<{ old: string; password: string }>({
        old: Joi.string().max(1000).allow('').required(),
        password: Joi.string().max(1000).required(),
      }),
      answers: { 204: null },
      does: async ({ at, person, body, req }) => {
        if (person.passwordHash === null)
          throw new Problem(
            409,
            'no-password',
            'You have no password yet. Ask for a link to choose one at the sign-in.',
          );
        const right = await door.counted(`own password of ${subjectName(person.subject)}`, req);
        if (!(await passwordFits(person.passwordHash, body.old)))
          throw new InvalidValues({ old: 'This is not your password.' });
        await right();
        await refuseWeakPassword(at, person, body.password);
        await at.savePassword(person, await hashPassword(body.password));
        await endOthers({ at, person }, req);
      },
    }),
    removePasskey: endpoint({
      method: 'DELETE',
      path: '/own/passkeys/:passkey',
      says: 'Removes a passkey of whoever is signed in.',
      entry,
      params: { passkey: Joi.string().max(700).required() },
      answers: { 204: null },
      does: async ({ person, params }) => {
        const removed = await Passkey.destroy({ where: { ...person.subject, id: params.passkey } });
        if (removed !== 1) throw new NotFound('passkey');
      },
    }),
    removeSecondFactor: endpoint({
      method: 'DELETE',
      path: '/own/second-factor',
      says: 'Gives the second factor up, where none is asked for.',
      entry,
      answers: { 204: null },
      does: async ({ at, person }) => {
        if (await at.asksSecond(person))
          throw new Problem(409, 'second-factor', 'A second factor is asked of you. Set a new one up instead.');
        await SecondFactor.destroy({ where: person.subject });
      },
    }),
  };
}
