import Joi from 'joi';
import { Op } from 'sequelize';
import { columnLabel } from '../../core/definition/definition';
import { rolesBySignUp } from '../../core/people/sign-ups';
import { plainLabel, type Catalogue } from '../../core/table/catalogue';
import { Problem } from '../../core/refusals/problem';
import { writeAudit } from '../audit/audit';
import { atPortal, openDraft, type BenchServices } from '../bench/bench';
import { NotFound } from '../gate/gate';
import { form, listOf, moment, said, saidOrNull } from '../http/answers';
import { endpoint, ownNumber, type Entry } from '../http/endpoint';
import { readAddress } from '../mail/own-address';
import { callingTo } from '../people/calling';
import { Portal } from '../store/models';
import { SignUpRequest } from '../store/people-models';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import type { SignUpLinks } from './sign-up-link';
import { byDomain, type SignUps } from './sign-ups';
import { inviteTyped, typedOutcomes, type TypedOutcome } from './typed-invitations';
import type { PortalDefinition } from '../../core/definition/definition';

/** Somebody who waits for an answer, or got one. */
export interface RequestInfo {
  id: number;
  signUp: string;
  email: string;
  /** What they filled in, by its label. */
  values: { label: string; value: string }[];
  state: SignUpRequest['state'];
  madeAt: string;
  decided: string | null;
}

const request = form<RequestInfo>({
  id: Joi.number().integer(),
  signUp: said,
  email: said,
  values: listOf(form<RequestInfo['values'][number]>({ label: said, value: said })),
  state: said,
  madeAt: moment,
  decided: saidOrNull,
});

function infoOf(
  definition: PortalDefinition,
  { id, signUp, email, content, state, madeAt, decided }: SignUpRequest,
): RequestInfo {
  const found = definition.signUps?.find((each) => each.id === signUp);
  return {
    id,
    signUp: signUp === byDomain ? 'An open domain' : (found?.name ?? signUp),
    email,
    values: Object.entries(JSON.parse(content) as Record<string, unknown>).map(([name, value]) => ({
      label: columnLabel(definition, found?.roster ?? '', name, plainLabel),
      value: Array.isArray(value) ? value.join(', ') : String(value ?? ''),
    })),
    state,
    madeAt: madeAt.toISOString(),
    decided,
  };
}

/** Requests as whoever looks is told of them: what was filled in stands in no column yet that could have a class. */
async function toldOf(
  at: { definition: PortalDefinition; catalogue: Catalogue; withoutSight?: true },
  portalId: number,
  requests: readonly SignUpRequest[],
): Promise<RequestInfo[]> {
  const infos = requests.map((each) => infoOf(at.definition, each));
  if (!at.withoutSight) return infos;
  const calling = await callingTo(at, portalId);
  return infos.map((info) => ({ ...info, email: calling.email(info.email), values: [], decided: null }));
}

const shown: SignUpRequest['state'][] = ['waiting', 'done', 'refused'];

/** What the approvers of sign-ups see and decide. */
export function approverEndpoints(signUps: SignUps, entry: Entry<{ visit: PortalVisit }>) {
  /** The sign-ups for which this person may answer. */
  const theirs = ({ definition, person }: PortalVisit): string[] =>
    (definition.signUps ?? [])
      .filter(({ approver }) => approver !== undefined && person.roles.includes(approver))
      .map(({ id }) => id);
  const one = async (visit: PortalVisit, id: number) => {
    refuseSeenBy(visit);
    const found = await SignUpRequest.findOne({
      where: { id, portalId: visit.portalId, signUp: theirs(visit), state: 'waiting' },
    });
    if (!found) throw new NotFound('request');
    return { found, portal: await Portal.findByPk(visit.portalId, { rejectOnEmpty: true }) };
  };
  const signed = ({ name, person }: PortalVisit) => `${name} <${person.email}>`;
  return {
    waitingRequests: endpoint({
      method: 'GET',
      path: '/requests',
      says: 'Those who ask to come in and wait for you to agree, the first first.',
      entry,
      answers: { 200: form<{ requests: RequestInfo[] }>({ requests: listOf(request) }) },
      does: async ({ visit }) => {
        const found = await SignUpRequest.findAll({
          where: { portalId: visit.portalId, signUp: theirs(visit), state: 'waiting' },
          order: [['id', 'ASC']],
          limit: 200,
        });
        const { definition, catalogue, person } = visit;
        const at = { definition, catalogue, ...(person.withoutSight ? { withoutSight: true as const } : {}) };
        return { requests: await toldOf(at, visit.portalId, found) };
      },
    }),
    agreeToRequest: endpoint({
      method: 'POST',
      path: '/requests/:request/agree',
      says: 'Lets somebody in who asked to: their row is made, and a mail tells them.',
      entry,
      params: { request: ownNumber },
      answers: { 204: null },
      does: async ({ visit, params }) => {
        const { found, portal } = await one(visit, params.request);
        await signUps.agree(portal, found, signed(visit));
      },
    }),
    refuseRequest: endpoint({
      method: 'POST',
      path: '/requests/:request/refuse',
      says: 'Does not let somebody in who asked to. Nothing is sent to them.',
      entry,
      params: { request: ownNumber },
      answers: { 204: null },
      does: async ({ visit, params }) => {
        const { found, portal } = await one(visit, params.request);
        await signUps.refuse(portal, found, signed(visit));
      },
    }),
  };
}

/** What builders see and decide of those who ask to come in. */
export function benchSignUpEndpoints(services: BenchServices & { signUps: SignUps; signUpLinks: SignUpLinks }) {
  const { signUps, signUpLinks } = services;
  const entry = atPortal(services);
  const one = async (portalId: number, id: number) => {
    const found = await SignUpRequest.findOne({ where: { id, portalId, state: 'waiting' } });
    if (!found) throw new NotFound('request');
    return found;
  };
  return {
    signUpLinks: endpoint({
      method: 'GET',
      path: '/sign-ups',
      says: 'The links of the draft’s sign-ups, the roles that they give, and who asked by them.',
      entry: openDraft(services),
      answers: {
        200: form<{ links: { id: string; link: string; roles: string[] }[]; requests: RequestInfo[] }>({
          links: listOf(
            form<{ id: string; link: string; roles: string[] }>({ id: said, link: said, roles: listOf(said) }),
          ),
          requests: listOf(request),
        }),
      },
      does: async ({ draft }) => {
        const { portal, definition, catalogue } = draft;
        const base = await readAddress(portal.id);
        const found = await SignUpRequest.findAll({
          where: { portalId: portal.id, state: shown, email: { [Op.ne]: '' } },
          order: [['id', 'DESC']],
          limit: 200,
        });
        return {
          links: (definition.signUps ?? []).map((signUp) => ({
            id: signUp.id,
            link: signUpLinks.address(base, portal.slug, portal.id, signUp.id),
            roles: rolesBySignUp(definition, catalogue, signUp),
          })),
          requests: await toldOf(draft, portal.id, found),
        };
      },
    }),
    inviteToSignUp: endpoint({
      method: 'POST',
      path: '/sign-ups/:signUp/invitations',
      says: "Sends a sign-up's link to addresses, and says of each what became of it. It can't be taken back.",
      personal: true,
      entry,
      params: { signUp: Joi.string().max(64).required() },
      body: Joi.object<{ addresses: string[] }>({
        addresses: Joi.array().items(Joi.string().trim().max(300)).min(1).max(500).required(),
      }),
      answers: {
        200: form<{ outcomes: TypedOutcome[] }>({
          outcomes: listOf(form<TypedOutcome>({ address: said, outcome: Joi.valid(...typedOutcomes) })),
        }),
      },
      does: async ({ portal, signed, params, body }) => {
        const published = await signUps.published(portal);
        const signUp = published.definition.signUps?.find(({ id }) => id === params.signUp);
        if (!signUp)
          throw new Problem(409, 'not-published', 'Publish the sign-up first: its link leads to what is published.');
        await signUps.refuseOver(published, signUp);
        if (!(await services.mailServers.read()))
          throw new Problem(409, 'no-mail-server', 'Set the mail server first, under People, Outbox.');
        const link = signUpLinks.address(await readAddress(portal.id), portal.slug, portal.id, signUp.id);
        const outcomes = await inviteTyped(services, published, signUp, link, [...new Set(body.addresses)]);
        const sent = outcomes.filter(({ outcome }) => outcome === 'sent');
        if (sent.length > 0)
          await writeAudit(portal.id, signed, 'invited to sign up', sent.map(({ address }) => address).join(', '));
        return { outcomes };
      },
    }),
    agreeToSignUp: endpoint({
      method: 'POST',
      path: '/sign-ups/:request/agree',
      says: 'Lets somebody in who asked to: their row is made, and a mail tells them.',
      entry,
      params: { request: ownNumber },
      answers: { 204: null },
      does: async ({ portal, signed, params }) => signUps.agree(portal, await one(portal.id, params.request), signed),
    }),
    refuseSignUp: endpoint({
      method: 'POST',
      path: '/sign-ups/:request/refuse',
      says: 'Does not let somebody in who asked to. Nothing is sent to them.',
      entry,
      params: { request: ownNumber },
      answers: { 204: null },
      does: async ({ portal, signed, params }) => signUps.refuse(portal, await one(portal.id, params.request), signed),
    }),
  };
}
