import Joi from 'joi';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { normaliseEmail } from '../../core/text/email';
import { readAudit, writeAudit, type AuditWhat } from '../audit/audit';
import { logLine, type LogLine } from '../audit/log-line';
import type { CoreServices } from '../definitions/portal-services';
import { InvalidValues, NotFound } from '../gate/gate';
import { form, listOf, moment, said, whole, yesNo } from '../http/answers';
import { endpoint, ownNumber } from '../http/endpoint';
import { emailAddress } from '../mail/email-schema';
import { Builder, Portal } from '../store/models';
import { SecondFactor, Session } from '../store/people-models';
import { asOwner } from './as-builder';
import { builderMail, makeBuilderLink } from './builder-links';
import { builderRights, type BuilderRight } from './builder-rights';

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
  /** They have been in, or have a password to come in with. */
  hasBeenIn: boolean;
  hasSecondFactor: boolean;
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

const formKeys = {
  name: Joi.string().trim().min(1).max(120).required(),
  right: Joi.valid(...builderRights).required(),
  portals: Joi.array().items(Joi.string().max(40)).unique().max(1000).allow(null).required(),
  seesPersonal: Joi.boolean().default(true),
};
/** Whoever gives others sight can give it to themselves. */
function refuseKeptOwner(right: BuilderRight, seesPersonal: boolean): void {
  if (right === 'owner' && !seesPersonal)
    throw new InvalidValues({ seesPersonal: 'An owner sees personal data: they could give it to themselves.' });
}

const hasBeenIn = [{ passwordHash: { [Op.ne]: null } }, { lastIn: { [Op.ne]: null } }];

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
      where: { id: { [Op.ne]: builder.id }, right: 'owner', suspended: false, [Op.or]: hasBeenIn },
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
    const says =
      'you were made one of those who build portals with Stone Porch. Come in by the link below: it works once, ' +
      'within a week.';
    await services.outbox.queue([builderMail(builder, 'You can build here now', says, link)]);
  };
  /** Does something for one of them, and writes it down. */
  const acted = async (
    { params, signed }: { params: { builder: number }; signed: string },
    what: AuditWhat,
    act: (builder: Builder) => Promise<unknown>,
  ): Promise<void> => {
    const builder = await colleague(params.builder);
    await act(builder);
    await writeAudit(null, signed, what, told(builder));
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
              hasBeenIn: yesNo,
              hasSecondFactor: yesNo,
              lastIn: moment.allow(null),
            }),
          ),
        }),
      },
      does: async () => {
        const slugs = new Map((await Portal.findAll({ attributes: ['id', 'slug'] })).map(({ id, slug }) => [id, slug]));
        const all = await Builder.findAll({ order: [['name', 'ASC']] });
        const factors = await SecondFactor.findAll({
          attributes: ['builderId'],
          where: { builderId: { [Op.ne]: null } },
        });
        const second = new Set(factors.map(({ builderId }) => Number(builderId)));
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
            hasBeenIn: builder.passwordHash !== null || builder.lastIn !== null,
            hasSecondFactor: second.has(builder.id),
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
      does: async ({ signed, body: { name, email, right, portals, seesPersonal } }) => {
        refuseKeptOwner(right, seesPersonal);
        const known = normaliseEmail(email);
        if (await Builder.findOne({ where: { email: known } }))
          throw new InvalidValues({ email: 'Somebody with this e-mail builds here already.' });
        const kept = await portalIds(portals);
        const made = await Builder.create({
          email: known,
          name,
          right,
          portals: kept,
          seesPersonal,
          passwordHash: null,
        });
        await invite(made);
        await writeAudit(null, signed, 'asked somebody to build', `${told(made)}: ${mayDo(made, portals)}`);
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
      does: async ({ signed, params, body: { name, right, portals, suspended, seesPersonal } }) => {
        refuseKeptOwner(right, seesPersonal);
        const builder = await colleague(params.builder);
        if (right !== 'owner' || suspended) await refuseLast(builder);
        await builder.update({ name, right, portals: await portalIds(portals), suspended, seesPersonal });
        if (suspended) await Session.destroy({ where: { builderId: builder.id } });
        await writeAudit(null, signed, 'changed somebody who builds', `${told(builder)}: ${mayDo(builder, portals)}`);
      },
    }),
    sendColleagueLink: endpoint({
      method: 'POST',
      path: '/colleagues/:builder/link',
      says: 'Sends somebody who builds a link to choose a password by.',
      entry: owner,
      params: one,
      answers: { 204: null },
      does: (asked) => acted(asked, 'sent a link to somebody who builds', invite),
    }),
    removeColleague: endpoint({
      method: 'DELETE',
      path: '/colleagues/:builder',
      says: 'Removes somebody who builds. What they did stays in the logs.',
      entry: owner,
      params: one,
      answers: { 204: null },
      does: (asked) =>
        acted(asked, 'removed somebody who builds', async (builder) => {
          await refuseLast(builder);
          await builder.destroy();
        }),
    }),
    forgetColleaguesSecond: endpoint({
      method: 'DELETE',
      path: '/colleagues/:builder/second-factor',
      says: 'Forgets the second factor of somebody who builds and lost it; they set up a new one where it is asked.',
      entry: owner,
      params: one,
      answers: { 204: null },
      does: (asked) =>
        acted(asked, 'forgot a second factor', ({ id }) => SecondFactor.destroy({ where: { builderId: id } })),
    }),
    endColleaguesSessions: endpoint({
      method: 'DELETE',
      path: '/colleagues/:builder/sessions',
      says: 'Ends every session of somebody who builds.',
      entry: owner,
      params: one,
      answers: { 204: null },
      does: (asked) => acted(asked, 'ended sessions', ({ id }) => Session.destroy({ where: { builderId: id } })),
    }),
    ownersLog: endpoint({
      method: 'GET',
      path: '/colleagues/log',
      says: 'The newest lines of what owners changed that holds for every portal.',
      entry: owner,
      answers: { 200: form<{ entries: LogLine[] }>({ entries: listOf(logLine) }) },
      does: async () => {
        const entries = await readAudit(null, 300);
        return { entries: entries.map((line) => ({ ...line, at: line.at.toISOString() })) };
      },
    }),
  };
}

const told = ({ name, email }: Builder) => `${name} <${email}>`;

/** What somebody who builds may do, for the log. */
function mayDo({ right, suspended, seesPersonal }: Builder, portals: string[] | null): string {
  const where = portals === null ? 'all portals' : portals.join(', ') || 'no portal';
  return [right, where, ...(seesPersonal ? [] : ['kept from personal data']), ...(suspended ? ['suspended'] : [])].join(
    ', ',
  );
}
