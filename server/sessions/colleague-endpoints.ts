import { randomBytes } from 'node:crypto';
import Joi from 'joi';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { passwordProblem } from '../../core/sign-in/password-rules';
import { normaliseEmail } from '../../core/text/email';
import type { CoreServices } from '../definitions/portal-services';
import { InvalidValues, NotFound } from '../gate/gate';
import { form, listOf, moment, said, whole, yesNo } from '../http/answers';
import { anybody, endpoint, ownNumber } from '../http/endpoint';
import { setCookie } from '../http/security';
import { readAddress } from '../mail/own-address';
import { secretMark } from '../outbox/outbox';
import { Builder, BuilderLink, Portal } from '../store/models';
import { Session } from '../store/people-models';
import { asOwner, builderCookie, builderCookiePath } from './as-builder';
import { builderRights, type BuilderRight } from './builder-rights';
import { commonPasswords } from './common-passwords';
import { hashPassword } from './passwords';
import { beginSession, tokenHash } from './sessions';

/** Somebody who builds, as owners see them. */
export interface ColleagueInfo {
  id: number;
  name: string;
  email: string;
  right: BuilderRight;
  /** Addresses of the portals that they may work at; null for all. */
  portals: string[] | null;
  suspended: boolean;
  /** Whether they see personal data as it is. */
  seesPersonal: boolean;
  hasPassword: boolean;
  lastIn: string | null;
}

interface ColleagueForm {
  name: string;
  right: BuilderRight;
  portals: string[] | null;
  seesPersonal: boolean;
}

/** What the first owner is called until they have said who they are. */
export const firstOwner = 'first@localhost';

const linkLasts = 7 * 24 * 3_600_000;

const formKeys = {
  name: Joi.string().trim().min(1).max(120).required(),
  right: Joi.valid(...builderRights).required(),
  portals: Joi.array().items(Joi.string().max(40)).unique().max(1000).allow(null).required(),
  seesPersonal: Joi.boolean().default(true),
};
const emailAddress = Joi.string()
  .max(254)
  .pattern(/^[^\s<>@]+@[^\s<>@]+$/, 'an e-mail address');
const token = Joi.string().max(100).required();

/** Whoever gives others sight can give it to themselves. */
function refuseKeptOwner(right: BuilderRight, seesPersonal: boolean): void {
  if (right === 'owner' && !seesPersonal)
    throw new InvalidValues({ seesPersonal: 'An owner sees personal data: they could give it to themselves.' });
}

/** A link by which a builder chooses a password, once within a week. */
export async function makeBuilderLink(builderId: number): Promise<string> {
  const made = randomBytes(32).toString('base64url');
  await BuilderLink.create({ tokenHash: tokenHash(made), builderId, expiresAt: new Date(Date.now() + linkLasts) });
  return `${await readAddress()}/join#${made}`;
}

/** Owners look after those who build; who was invited chooses a password by their link. */
export function colleagueEndpoints(services: CoreServices) {
  const owner = asOwner(services);
  const one = { builder: ownNumber };
  const colleague = async (id: number): Promise<Builder> => {
    const found = await Builder.findByPk(id);
    if (!found) throw new NotFound('builder');
    return found;
  };
  /** Somebody must be left who can look after the others. */
  const refuseLast = async (builder: Builder): Promise<void> => {
    const others = await Builder.count({
      where: { id: { [Op.ne]: builder.id }, right: 'owner', suspended: false, passwordHash: { [Op.ne]: null } },
    });
    if (builder.right === 'owner' && others === 0)
      throw new Problem(409, 'last-owner', `${builder.name} is the last owner. Make somebody else one first.`);
  };
  const portalIds = async (slugs: string[] | null): Promise<string | null> => {
    if (slugs === null) return null;
    const found = await Portal.findAll({ where: { slug: slugs } });
    const strange = slugs.find((slug) => !found.some((portal) => portal.slug === slug));
    if (strange !== undefined) throw new InvalidValues({ portals: `There is no portal ${strange}.` });
    return JSON.stringify(found.map(({ id }) => id));
  };
  const invite = async (builder: Builder): Promise<void> => {
    const link = await makeBuilderLink(builder.id);
    await services.outbox.queue([
      {
        portalId: null,
        memberId: null,
        kind: 'builder',
        recipient: builder.email,
        subject: 'You can build here now',
        text:
          `Hello ${builder.name},\n\nyou were made one of those who build portals with Stone Porch. ` +
          `Choose your password here, within a week:\n\n${secretMark}\n`,
        html:
          '<p>You were made one of those who build portals with Stone Porch.</p>' +
          `<p><a href="${secretMark}">Choose your password</a>, within a week.</p>`,
        secret: link,
      },
    ]);
  };
  return {
    colleagues: endpoint({
      method: 'GET',
      path: '/colleagues',
      says: 'Everyone who builds here, with what they may do. For owners.',
      entry: owner,
      answers: {
        200: form<{ colleagues: ColleagueInfo[] }>({
          colleagues: listOf(
            form<ColleagueInfo>({
              id: whole,
              name: said,
              email: said,
              right: Joi.valid(...builderRights),
              portals: listOf(said).allow(null),
              suspended: yesNo,
              seesPersonal: yesNo,
              hasPassword: yesNo,
              lastIn: moment.allow(null),
            }),
          ),
        }),
      },
      does: async () => {
        const slugs = new Map((await Portal.findAll({ attributes: ['id', 'slug'] })).map(({ id, slug }) => [id, slug]));
        const all = await Builder.findAll({ order: [['name', 'ASC']] });
        return {
          colleagues: all.map((builder) => ({
            id: builder.id,
            name: builder.name,
            email: builder.email,
            right: builder.right,
            portals:
              builder.portals === null
                ? null
                : (JSON.parse(builder.portals) as number[]).flatMap((id) => slugs.get(id) ?? []),
            suspended: builder.suspended,
            seesPersonal: builder.seesPersonal,
            hasPassword: builder.passwordHash !== null,
            lastIn: builder.lastIn?.toISOString() ?? null,
          })),
        };
      },
    }),
    inviteColleague: endpoint({
      method: 'POST',
      path: '/colleagues',
      says: 'Adds somebody who builds, and sends them a link to choose their password by.',
      entry: owner,
      body: Joi.object<ColleagueForm & { email: string }>({
        ...formKeys,
        email: emailAddress.required(),
      }),
      answers: { 201: null },
      does: async ({ body: { name, email, right, portals, seesPersonal } }) => {
        refuseKeptOwner(right, seesPersonal);
        const known = normaliseEmail(email);
        if (await Builder.findOne({ where: { email: known } }))
          throw new InvalidValues({ email: 'Somebody with this e-mail builds here already.' });
        const kept = await portalIds(portals);
        await invite(
          await Builder.create({ email: known, name, right, portals: kept, seesPersonal, passwordHash: null }),
        );
      },
    }),
    changeColleague: endpoint({
      method: 'PUT',
      path: '/colleagues/:builder',
      says: 'Changes what somebody who builds may do. Holds at their next request.',
      entry: owner,
      params: one,
      body: Joi.object<ColleagueForm & { suspended: boolean }>({ ...formKeys, suspended: Joi.boolean().required() }),
      answers: { 204: null },
      does: async ({ params, body: { name, right, portals, suspended, seesPersonal } }) => {
        refuseKeptOwner(right, seesPersonal);
        const builder = await colleague(params.builder);
        if (right !== 'owner' || suspended) await refuseLast(builder);
        await builder.update({ name, right, portals: await portalIds(portals), suspended, seesPersonal });
        if (suspended) await Session.destroy({ where: { builderId: builder.id } });
      },
    }),
    sendColleagueLink: endpoint({
      method: 'POST',
      path: '/colleagues/:builder/link',
      says: 'Sends somebody who builds a link to choose a password by.',
      entry: owner,
      params: one,
      answers: { 204: null },
      does: async ({ params }) => invite(await colleague(params.builder)),
    }),
    removeColleague: endpoint({
      method: 'DELETE',
      path: '/colleagues/:builder',
      says: 'Removes somebody who builds. What they did stays in the logs.',
      entry: owner,
      params: one,
      answers: { 204: null },
      does: async ({ params }) => {
        const builder = await colleague(params.builder);
        await refuseLast(builder);
        await builder.destroy();
      },
    }),
    lookAtBuilderLink: endpoint({
      method: 'POST',
      path: '/links/look',
      says: 'Whose link it is. Uses nothing up.',
      entry: anybody,
      body: Joi.object<{ token: string }>({ token }),
      answers: {
        200: form<{ name: string; email: string; isFirst: boolean }>({ name: said, email: said, isFirst: yesNo }),
      },
      does: async ({ body }) => {
        const { name, email } = await linkedBuilder(body.token);
        return { name, email, isFirst: email === firstOwner };
      },
    }),
    useBuilderLink: endpoint({
      method: 'POST',
      path: '/links/use',
      says: 'Chooses the password of a builder by their link, once. The first owner also says who they are.',
      entry: anybody,
      body: Joi.object<{ token: string; password: string; email?: string; name?: string }>({
        token,
        password: Joi.string().max(1000).required(),
        email: emailAddress,
        name: Joi.string().trim().min(1).max(120),
      }),
      answers: { 204: null },
      does: async ({ body, req, res }) => {
        const builder = await linkedBuilder(body.token);
        const isFirst = builder.email === firstOwner;
        if (isFirst && (!body.email || !body.name))
          throw new InvalidValues({ email: 'Say who you are: you will sign in by it.' });
        const who = isFirst
          ? { email: normaliseEmail(body.email!), name: body.name! }
          : { email: builder.email, name: builder.name };
        const problem = passwordProblem(body.password, { ...who, portal: 'Stone Porch' }, await commonPasswords());
        if (problem !== null) throw new InvalidValues({ password: problem });
        if ((await BuilderLink.destroy({ where: { tokenHash: tokenHash(body.token) } })) !== 1) throw deadLink();
        await BuilderLink.destroy({ where: { builderId: builder.id } });
        await Session.destroy({ where: { builderId: builder.id } });
        await builder.update({ ...who, passwordHash: await hashPassword(body.password), lastIn: new Date() });
        const session = await beginSession({ builderId: builder.id }, req.get('user-agent'));
        setCookie(req, res, builderCookie, session, builderCookiePath);
      },
    }),
  };
}

const deadLink = () =>
  new Problem(404, 'link', 'This link was used already, or has ended. Ask an owner for a new one.');

async function linkedBuilder(given: string): Promise<Builder> {
  const link = await BuilderLink.findOne({
    where: { tokenHash: tokenHash(given), expiresAt: { [Op.gt]: new Date() } },
  });
  const builder = link && (await Builder.findByPk(link.builderId));
  if (!builder || builder.suspended) throw deadLink();
  return builder;
}
