import type { Request } from 'express';
import Joi from 'joi';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { passwordProblem, shortestPassword } from '../../core/sign-in/password-rules';
import { signInMethods, signInRules, type SignInMethod } from '../../core/sign-in/sign-in-rules';
import { NotFound } from '../gate/gate';
import { form, listOf, moment, said, saidOrNull, whole, yesNo } from '../http/answers';
import { endpoint, ownNumber, type Entry } from '../http/endpoint';
import { readCookie } from '../http/security';
import { deviceName } from '../sessions/device';
import { hashPassword, passwordFits } from '../sessions/passwords';
import type { SignInFailures } from '../sessions/failures';
import { tokenHash } from '../sessions/sessions';
import { mustWait } from '../sessions/sign-in';
import { Member, Passkey, SecondFactor, Session } from '../store/people-models';
import { memberCookie, type PortalVisit } from '../visits/member-visit';
import { commonPasswords } from '../sessions/common-passwords';

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
  /** One of their roles asks for it, so it can't be taken away. */
  isSecondFactorAsked: boolean;
  sessions: OwnSession[];
}

const momentOrNull = moment.allow(null);

/** What members see and change of their own way in: sessions, password, passkeys, second factor. */
export function ownSignInEndpoints(entry: Entry<{ visit: PortalVisit }>, failures: SignInFailures) {
  const own = async ({ person: { id } }: PortalVisit): Promise<Member> => Member.findByPk(id!, { rejectOnEmpty: true });
  const thisSession = (req: Request): string => tokenHash(readCookie(req, memberCookie) ?? '');
  const isAsked = ({ definition, person }: PortalVisit): boolean =>
    person.roles.some((role) => signInRules(definition).secondFactor?.includes(role));
  const endOthers = (memberId: number, req: Request) =>
    Session.destroy({ where: { memberId, tokenHash: { [Op.ne]: thisSession(req) } } });
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
      does: async ({ visit, req }) => {
        const member = await own(visit);
        const where = { memberId: member.id };
        const [passkeys, sessions, factors] = await Promise.all([
          Passkey.findAll({ where, order: [['madeAt', 'ASC']] }),
          Session.findAll({ where, order: [['seenAt', 'DESC']] }),
          SecondFactor.count({ where }),
        ]);
        return {
          methods: signInRules(visit.definition).methods,
          hasPassword: member.passwordHash !== null,
          passkeys: passkeys.map(({ id, name, madeAt, usedAt }) => ({
            id,
            name,
            madeAt: madeAt.toISOString(),
            usedAt: usedAt?.toISOString() ?? null,
          })),
          hasSecondFactor: factors > 0,
          isSecondFactorAsked: isAsked(visit),
          sessions: sessions.map((session) => ({
            id: session.id,
            device: deviceName(session.device),
            beganAt: session.beganAt?.toISOString() ?? null,
            lastUsed: session.seenAt.toISOString(),
            isThis: session.tokenHash === thisSession(req),
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
      does: async ({ visit, params }) => {
        const ended = await Session.destroy({ where: { id: params.session, memberId: visit.person.id } });
        if (ended !== 1) throw new NotFound('session');
      },
    }),
    endOtherSessions: endpoint({
      method: 'DELETE',
      path: '/own/sessions',
      says: 'Ends all other sessions of whoever is signed in.',
      entry,
      answers: { 204: null },
      does: async ({ visit, req }) => void (await endOthers(visit.person.id!, req)),
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
      does: async ({ visit, body, req }) => {
        const member = await own(visit);
        if (member.passwordHash === null)
          throw new Problem(
            409,
            'no-password',
            'You have no password yet. Ask for a link to choose one at the sign-in.',
          );
        const [who, address] = [`own password of ${member.id}`, req.ip ?? ''];
        const wait = await failures.begin(who, address);
        if (wait > 0) throw mustWait(wait);
        if (!(await passwordFits(member.passwordHash, body.old)))
          throw new Problem(422, 'invalid-values', 'Some values are wrong.', {
            fields: { old: 'This is not your password.' },
          });
        await failures.succeeded(who, address);
        const owner = { name: member.name, email: member.email, portal: visit.definition.portal.name };
        const shortest = isAsked(visit) ? shortestPassword.besideAnother : shortestPassword.alone;
        const problem = passwordProblem(body.password, owner, await commonPasswords(), shortest);
        if (problem !== null)
          throw new Problem(422, 'invalid-values', 'Some values are wrong.', { fields: { password: problem } });
        await member.update({ passwordHash: await hashPassword(body.password) });
        await endOthers(member.id, req);
      },
    }),
    removePasskey: endpoint({
      method: 'DELETE',
      path: '/own/passkeys/:passkey',
      says: 'Removes a passkey of whoever is signed in.',
      entry,
      params: { passkey: Joi.string().max(700).required() },
      answers: { 204: null },
      does: async ({ visit, params }) => {
        const removed = await Passkey.destroy({ where: { id: params.passkey, memberId: visit.person.id! } });
        if (removed !== 1) throw new NotFound('passkey');
      },
    }),
    removeSecondFactor: endpoint({
      method: 'DELETE',
      path: '/own/second-factor',
      says: 'Gives the second factor up, where no role asks for it.',
      entry,
      answers: { 204: null },
      does: async ({ visit }) => {
        if (isAsked(visit))
          throw new Problem(
            409,
            'second-factor',
            'One of your roles asks for a second factor. Set a new one up instead.',
          );
        await SecondFactor.destroy({ where: { memberId: visit.person.id! } });
      },
    }),
  };
}
