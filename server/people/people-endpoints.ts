import { NotFound } from '../gate/gate';
import Joi from 'joi';
import { writeAudit } from '../audit/audit';
import { atPortal, openDraft, type BenchServices } from '../bench/bench';
import { form, listOf, said, whole, yesNo } from '../http/answers';
import { endpoint, ownNumber } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { Jobs } from '../jobs/jobs';
import { builders } from '../sessions/as-builder';
import { findMembers, type FoundMember } from './members';
import { hashPassword } from '../sessions/passwords';
import { Member, Session } from '../store/models';

const text = (max: number) => Joi.string().max(max);

const foundMember = form<FoundMember>({
  id: whole,
  name: said,
  email: said,
  active: yesNo,
  canSignIn: yesNo,
  rosters: listOf(said),
  roles: listOf(said),
});

/** The members of a portal as its builders see them. */
export function peopleEndpoints(services: BenchServices, jobs: Jobs) {
  const draft = openDraft(services);
  return {
    members: endpoint({
      method: 'GET',
      path: '/members',
      says: 'Members by name or e-mail, with the roles that the draft gives them now.',
      entry: draft,
      query: Joi.object<{ search: string; roster: string | null; offset: number; size: number }>({
        search: text(200).allow('').default(''),
        roster: text(64).default(null),
        offset: Joi.number().integer().min(0).max(1e7).default(0),
        size: Joi.number().integer().min(1).max(200).default(50),
      }),
      answers: { 200: form<{ total: number; members: FoundMember[] }>({ total: whole, members: listOf(foundMember) }) },
      does: ({ draft: { portal, definition, source, catalogue }, query: { search, roster, offset, size } }) =>
        findMembers(source, catalogue, definition, portal.id, search, roster, offset, size),
    }),
    refreshMembers: endpoint({
      method: 'POST',
      path: '/members/refresh',
      says: "Begins a job that brings the members in line with the draft's rosters. Sends no mail.",
      entry: atPortal(services),
      answers: { 202: jobState },
      does: ({ portal, builder }) => jobs.start('refresh the members', portal.id, builders(builder), {}),
    }),
    setPassword: endpoint({
      method: 'PUT',
      path: '/members/:member/password',
      says: 'Sets the password of a member, and ends their sessions.',
      entry: atPortal(services),
      params: { member: ownNumber },
      body: Joi.object<{ password: string }>({ password: Joi.string().min(10).max(1000).required() }),
      answers: { 204: null },
      does: async ({ portal, signed, params: { member: id }, body: { password } }) => {
        const [changed] = await Member.update(
          { passwordHash: await hashPassword(password) },
          { where: { portalId: portal.id, id } },
        );
        if (changed !== 1) throw new NotFound('member');
        // Whoever was signed in with the old one is not any more.
        const ended = await Session.destroy({ where: { memberId: id } });
        const member = await Member.findByPk(id, { rejectOnEmpty: true });
        const times = ended === 1 ? 'once' : `${ended} times`;
        await writeAudit(
          portal.id,
          signed,
          'set a password',
          `of ${member.name} <${member.email}>${ended === 0 ? '' : `, who was signed in ${times} and is not any more`}`,
        );
      },
    }),
  };
}
