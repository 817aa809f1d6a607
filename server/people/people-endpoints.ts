import Joi from 'joi';
import { memberStates } from '../../core/people/member-state';
import { writeAudit } from '../audit/audit';
import { atPortal, openDraft, type BenchServices, type OpenDraft } from '../bench/bench';
import { form, listOf, moment, whole } from '../http/answers';
import { endpoint, ownNumber } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { Jobs } from '../jobs/jobs';
import { builders } from '../sessions/as-builder';
import { passwordProblem } from '../../core/sign-in/password-rules';
import { InvalidValues } from '../gate/gate';
import { commonPasswords } from '../sessions/common-passwords';
import { hashPassword } from '../sessions/passwords';
import { endSessionsOf } from '../sessions/sessions';
import { Member, PeopleState } from '../store/people-models';
import { giveRole, letInAgain, memberOf, suspend, takeRole } from './administer';
import { callingTo, type Calling } from './calling';
import { findMembers, findNumbers, type RostersRead, type WhichMembers } from './find-members';
import { mostInvited } from './invitations';
import { memberSheet } from './member-sheet';
import { foundMembers, memberSheetAnswer, refreshOutcome } from './people-answers';
import type { RefreshOutcome } from './refresh';

const text = (max: number) => Joi.string().max(max);
const reason = Joi.string().trim().min(3).max(500).required();

const read = async (draft: OpenDraft): Promise<RostersRead> => {
  const { source: runner, catalogue, definition, portal } = draft;
  return { runner, catalogue, definition, calling: await callingTo(draft, portal.id) };
};

/** Who has which roles is recorded soon; where that can't be noted while somebody looks, at the next look. */
const lookSoon = (portalId: number) =>
  PeopleState.update({ refreshedAt: null }, { where: { portalId } }).catch(() => undefined);

const called = ({ name, email }: Member): string => `${name} <${email}>`;
const ofSessions = (ended: number): string =>
  ended === 0 ? '' : `, who was signed in ${ended === 1 ? 'once' : `${ended} times`} and is not any more`;

/** What came of a refresh, with those whom it names as they are called to whoever looks. */
function calledSo(outcome: RefreshOutcome, { name, email }: Calling): RefreshOutcome {
  const called = <T extends { name: string; email: string }>(each: T): T => ({
    ...each,
    name: name(each.name),
    email: email(each.email),
  });
  return { ...outcome, people: outcome.people.map(called), rows: outcome.rows.map(called) };
}

const which = {
  search: text(200).allow('').default(''),
  roster: text(64).default(null),
  state: Joi.valid(...memberStates).default(null),
  role: text(64).default(null),
};

/** The members of a portal as its builders see them and look after them. */
export function peopleEndpoints(services: BenchServices, jobs: Jobs) {
  const draft = openDraft(services);
  const one = { member: ownNumber };
  return {
    members: endpoint({
      method: 'GET',
      path: '/members',
      says: 'Members by name or e-mail, with the roles that the draft gives them now; those gone when asked for.',
      entry: draft,
      query: Joi.object<WhichMembers & { offset: number; size: number }>({
        ...which,
        offset: Joi.number().integer().min(0).max(1e7).default(0),
        size: Joi.number().integer().min(1).max(200).default(50),
      }),
      answers: { 200: foundMembers },
      does: async ({ draft: at, query: { offset, size, ...asked } }) =>
        findMembers(await read(at), at.portal.id, asked, offset, size),
    }),
    memberNumbers: endpoint({
      method: 'GET',
      path: '/member-numbers',
      says: 'The numbers of all members who are found, to do something for all of them.',
      entry: draft,
      query: Joi.object<WhichMembers>(which),
      answers: { 200: form<{ members: number[] }>({ members: listOf(whole) }) },
      does: async ({ draft: at, query }) => ({
        members: await findNumbers(await read(at), at.portal.id, query, mostInvited),
      }),
    }),
    member: endpoint({
      method: 'GET',
      path: '/members/:member',
      says: 'All that is known of a member beside their records: rows, roles and through which rule, sessions.',
      entry: draft,
      params: one,
      answers: { 200: memberSheetAnswer },
      does: async ({ draft: at, params: { member } }) =>
        memberSheet(await read(at), await memberOf(at.portal.id, member)),
    }),
    refreshMembers: endpoint({
      method: 'POST',
      path: '/members/refresh',
      says: 'Begins a job that brings the members in line with the rosters. Sends no mail.',
      entry: atPortal(services),
      answers: { 202: jobState },
      does: ({ portal, builder }) => jobs.start('refresh the members', portal.id, builders(builder), {}),
    }),
    lastRefresh: endpoint({
      method: 'GET',
      path: '/refreshed',
      says: 'When the members were last brought in line with the rosters, by whomever, and what came of it.',
      entry: draft,
      answers: {
        200: form<{ at: string | null; outcome: RefreshOutcome | null }>({
          at: moment.allow(null),
          outcome: refreshOutcome.allow(null),
        }),
      },
      does: async ({ draft: at, portal }) => {
        const state = await PeopleState.findByPk(portal.id);
        const calling = await callingTo(at, portal.id);
        return {
          at: state?.refreshedAt?.toISOString() ?? null,
          outcome: state?.outcome ? calledSo(JSON.parse(state.outcome) as RefreshOutcome, calling) : null,
        };
      },
    }),
    suspendMember: endpoint({
      method: 'PUT',
      path: '/members/:member/suspension',
      says: 'Shuts a member out, whatever the roster says, and ends their sessions at once.',
      entry: atPortal(services),
      params: one,
      body: Joi.object<{ reason: string }>({ reason }),
      answers: { 204: null },
      does: async ({ portal, signed, params, body }) => {
        const member = await memberOf(portal.id, params.member);
        const ended = await suspend(member, signed, body.reason);
        await writeAudit(portal.id, signed, 'suspended', `${called(member)}${ofSessions(ended)}: ${body.reason}`);
      },
    }),
    letMemberIn: endpoint({
      method: 'DELETE',
      path: '/members/:member/suspension',
      says: 'Lets a member in again.',
      entry: atPortal(services),
      params: one,
      answers: { 204: null },
      does: async ({ portal, signed, params }) => {
        const member = await memberOf(portal.id, params.member);
        await letInAgain(member);
        await writeAudit(portal.id, signed, 'let in again', called(member));
      },
    }),
    endMemberSessions: endpoint({
      method: 'DELETE',
      path: '/members/:member/sessions',
      says: 'Ends all sessions of a member.',
      entry: atPortal(services),
      params: one,
      answers: { 204: null },
      does: async ({ portal, signed, params }) => {
        const member = await memberOf(portal.id, params.member);
        const ended = await endSessionsOf([member.id]);
        await writeAudit(portal.id, signed, 'ended sessions', `of ${called(member)}${ofSessions(ended)}`);
      },
    }),
    giveRole: endpoint({
      method: 'PUT',
      path: '/members/:member/roles/:role',
      says: 'Gives a member a role by hand, beside what the rosters give. Holds at their next request.',
      entry: draft,
      params: { ...one, role: text(64).required() },
      body: Joi.object<{ reason: string }>({ reason }),
      answers: { 204: null },
      does: async ({ draft: { portal, definition }, signed, params, body }) => {
        const member = await memberOf(portal.id, params.member);
        await giveRole(definition, member, { role: params.role, reason: body.reason, by: signed });
        await lookSoon(portal.id);
        await writeAudit(portal.id, signed, 'gave a role', `${params.role} to ${called(member)}: ${body.reason}`);
      },
    }),
    takeRole: endpoint({
      method: 'DELETE',
      path: '/members/:member/roles/:role',
      says: 'Takes a role back that was given by hand. Holds at their next request.',
      entry: atPortal(services),
      params: { ...one, role: text(64).required() },
      answers: { 204: null },
      does: async ({ portal, signed, params }) => {
        const member = await memberOf(portal.id, params.member);
        await takeRole(member, params.role);
        await lookSoon(portal.id);
        await writeAudit(portal.id, signed, 'took a role back', `${params.role} from ${called(member)}`);
      },
    }),
    setPassword: endpoint({
      method: 'PUT',
      path: '/members/:member/password',
      says: 'Sets the password of a member, and ends their sessions.',
      personal: true,
      entry: atPortal(services),
      params: one,
      body: Joi.object<{ password: string }>({ password: Joi.string().max(1000).required() }),
      answers: { 204: null },
      does: async ({ portal, signed, params, body: { password } }) => {
        const member = await memberOf(portal.id, params.member);
        const owner = { name: member.name, email: member.email, portal: portal.slug };
        const problem = passwordProblem(password, owner, await commonPasswords());
        if (problem !== null) throw new InvalidValues({ password: problem });
        await member.update({ passwordHash: await hashPassword(password) });
        // Whoever was signed in with the old one is not any more.
        const ended = await endSessionsOf([member.id]);
        await writeAudit(portal.id, signed, 'set a password', `of ${called(member)}${ofSessions(ended)}`);
      },
    }),
  };
}
