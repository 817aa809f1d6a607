import Joi from 'joi';
import { lookedAfterColumns } from '../../core/access/steward-grants';
import { printPath } from '../../core/definition/path';
import { memberStates, type MemberState } from '../../core/people/member-state';
import { writeAudit } from '../audit/audit';
import type { CoreServices } from '../definitions/portal-services';
import { list, type ListAnswer } from '../gate/gate';
import { byName, form, moment, whole } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { readAddress } from '../mail/own-address';
import { letInAgain, suspend } from '../people/administer';
import { invite, type InvitationOutcome } from '../people/invitations';
import { queuePasswordLink } from '../people/secret-mail';
import { stateOf } from '../people/state-of';
import { endSessionsOf } from '../sessions/sessions';
import { Member, Membership } from '../store/people-models';
import { listPageKeys } from '../records/record-answers';
import { listQuery, questionOf } from '../records/record-question';
import { refuseSeenBy } from '../visits/entries';
import type { PortalVisit } from '../visits/member-visit';
import { atLookedAfter, lookedAfterMember, signedAs } from './looked-after-member';

/** Somebody who is looked after, beside their row. */
export interface LookedAfterInfo {
  state: MemberState;
  lastIn: string | null;
  invitedAt: string | null;
}

const momentOrNull = moment.allow(null);

const known = form<LookedAfterInfo>({
  state: Joi.valid(...memberStates),
  lastIn: momentOrNull,
  invitedAt: momentOrNull,
});

const unknown: LookedAfterInfo = { state: 'known', lastIn: null, invitedAt: null };

const infoOf = (member: Member): LookedAfterInfo => ({
  state: stateOf(member),
  lastIn: member.lastIn?.toISOString() ?? null,
  invitedAt: member.invitedAt?.toISOString() ?? null,
});

const reason = Joi.string().trim().min(3).max(500).required();

/** What stewards see and do of the people whom they look after, beside their rows. */
export function stewardPeopleEndpoints(services: CoreServices, entry: Entry<{ visit: PortalVisit }>) {
  const one = { steward: Joi.string().max(64).required(), id: Joi.string().max(1000).required() };
  /** The member who is acted on, and who says so in the log. */
  const acted = async (
    asked: PortalVisit,
    params: { steward: string; id: string },
    act: Parameters<typeof lookedAfterMember>[3],
  ) => {
    refuseSeenBy(asked);
    const at = await atLookedAfter(asked, params.steward);
    return { at, ...(await lookedAfterMember(services, at, params.id, act)) };
  };
  const called = ({ name, email }: Member) => `${name} <${email}>`;
  return {
    lookedAfter: endpoint({
      method: 'GET',
      path: '/people/:steward',
      says: 'The rows of those who are looked after, page by page, and how each stands, by the id of the row.',
      entry,
      query: listQuery,
      answers: {
        200: form<ListAnswer & { people: Record<string, LookedAfterInfo> }>({
          ...listPageKeys,
          total: whole,
          people: byName(known),
        }),
      },
      does: async ({ visit: asked, params, query }) => {
        const { visit, steward } = await atLookedAfter(asked, params.steward);
        const roster = visit.definition.rosters.find(({ table }) => table === steward.roster)!;
        const sort = [{ column: printPath([roster.name]), descending: false }];
        const columns = lookedAfterColumns(roster, steward).map((column) => printPath([column]));
        const question = questionOf(visit, steward.roster, query, { columns, sort, where: 'every row' });
        const answer = await list(visit.source, visit, steward.roster, question);
        const ids = answer.records.flatMap(({ id }) => id ?? []);
        return { ...answer, people: await howTheyStand(asked.portalId, steward.roster, ids) };
      },
    }),
    suspendLookedAfter: endpoint({
      method: 'PUT',
      path: '/people/:steward/:id/suspension',
      says: 'Shuts somebody out who is looked after, and ends their sessions at once.',
      entry,
      params: one,
      body: Joi.object<{ reason: string }>({ reason }),
      answers: { 204: null },
      does: async ({ visit, params, body }) => {
        const { at, member } = await acted(visit, params, 'suspend');
        await suspend(member, signedAs(at), body.reason);
        await writeAudit(visit.portalId, signedAs(at), 'suspended', `${called(member)}: ${body.reason}`);
      },
    }),
    letLookedAfterIn: endpoint({
      method: 'DELETE',
      path: '/people/:steward/:id/suspension',
      says: 'Lets somebody in again who is looked after.',
      entry,
      params: one,
      answers: { 204: null },
      does: async ({ visit, params }) => {
        const { at, member } = await acted(visit, params, 'suspend');
        await letInAgain(member);
        await writeAudit(visit.portalId, signedAs(at), 'let in again', called(member));
      },
    }),
    endLookedAfterSessions: endpoint({
      method: 'DELETE',
      path: '/people/:steward/:id/sessions',
      says: 'Ends all sessions of somebody who is looked after.',
      entry,
      params: one,
      answers: { 200: form<{ ended: number }>({ ended: whole }) },
      does: async ({ visit, params }) => {
        const { at, member } = await acted(visit, params, 'end sessions');
        const ended = await endSessionsOf([member.id]);
        await writeAudit(visit.portalId, signedAs(at), 'ended sessions', `of ${called(member)}`);
        return { ended };
      },
    }),
    sendPasswordLink: endpoint({
      method: 'POST',
      path: '/people/:steward/:id/password-link',
      says: 'Sends somebody who is looked after a link by which they choose a new password.',
      entry,
      params: one,
      answers: { 202: null },
      does: async ({ visit, params }) => {
        const { at, member, portal } = await acted(visit, params, 'send password links');
        const { source: runner, catalogue, definition } = at.visit;
        await services.store.sequelize.transaction((transaction) =>
          queuePasswordLink(services.outbox, { runner, catalogue, definition }, portal, member, transaction),
        );
        await writeAudit(visit.portalId, signedAs(at), 'sent a password link', `to ${called(member)}`);
      },
    }),
    inviteLookedAfter: endpoint({
      method: 'POST',
      path: '/people/:steward/:id/invitation',
      says: 'Invites somebody who is looked after, or says why not; once more only when told so.',
      entry,
      params: one,
      body: Joi.object<{ again: boolean }>({ again: Joi.boolean().default(false) }),
      answers: { 200: form<{ outcome: InvitationOutcome }>({ outcome: Joi.object<InvitationOutcome>().unknown() }) },
      does: async ({ visit, params, body: { again } }) => {
        const { at, member, portal } = await acted(visit, params, 'invite');
        const { source: runner, catalogue, definition } = at.visit;
        const inviting = {
          portal,
          source: { runner, catalogue, definition },
          outbox: services.outbox,
          base: await readAddress(portal.id),
        };
        const order = { kind: 'invitation' as const, members: [member.id], afterDays: 0, again };
        const outcome = await services.store.sequelize.transaction((transaction) =>
          invite(inviting, order, null, transaction),
        );
        if (outcome.queued > 0) await writeAudit(visit.portalId, signedAs(at), 'invited', called(member));
        return { outcome };
      },
    }),
  };
}

async function howTheyStand(
  portalId: number,
  roster: string,
  ids: readonly string[],
): Promise<Record<string, LookedAfterInfo>> {
  const memberships = await Membership.findAll({
    where: { portalId, rosterTable: roster, rowKey: [...ids] },
    raw: true,
  });
  const members = await Member.findAll({ where: { portalId, id: memberships.map(({ memberId }) => memberId) } });
  const byId = new Map(members.map((member) => [member.id, member]));
  return Object.fromEntries(
    ids.map((id) => {
      const of = memberships.find(({ rowKey }) => rowKey === id);
      const member = of && byId.get(Number(of.memberId));
      return [id, member ? infoOf(member) : unknown];
    }),
  );
}
