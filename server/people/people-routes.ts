import type { CoreServices } from '../definitions/portal-services';
import { NotFound } from '../gate/gate';
import { Router } from 'express';
import Joi from 'joi';
import { writeAudit } from '../audit/audit';
import { valid } from '../http/problems';
import { findMembers, refreshMembers } from './members';
import { hashPassword } from '../sessions/passwords';
import { Member, Session } from '../store/models';
import type { Bench } from '../bench/bench';

const text = (max: number) => Joi.string().max(max);

/** The members of a portal as its builders see them. */
export function peopleRoutes(services: CoreServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const { sequelize } = services.store;
  router.get('/members', async (req, res) => {
    const query = valid(
      Joi.object<{ search: string; roster: string | null; offset: number; size: number }>({
        search: text(200).allow('').default(''),
        roster: text(64).default(null),
        offset: Joi.number().integer().min(0).max(1e7).default(0),
        size: Joi.number().integer().min(1).max(200).default(50),
      }),
      req.query,
      'query',
    );
    const { portal, definition, source, catalogue } = await bench.draftOf(req);
    res.json(
      await findMembers(source, catalogue, definition, portal.id, query.search, query.roster, query.offset, query.size),
    );
  });
  router.post('/members/refresh', async (req, res) => {
    const { portal, definition, source, catalogue } = await bench.draftOf(req);
    const outcome = await refreshMembers(sequelize, source, catalogue, definition, portal.id);
    await writeAudit(
      portal.id,
      bench.signed(res),
      'refreshed the members',
      `${outcome.added} came, ${outcome.updated} changed, ${outcome.suspended} went`,
    );
    res.json(outcome);
  });
  router.put('/members/:member/password', async (req, res) => {
    const { password } = valid(
      Joi.object<{ password: string }>({ password: Joi.string().min(10).max(1000).required() }),
      req.body,
    );
    const portal = await bench.portalOf(req);
    const [changed] = await Member.update(
      { passwordHash: await hashPassword(password) },
      { where: { portalId: portal.id, id: Number(req.params.member) || 0 } },
    );
    if (changed !== 1) throw new NotFound('member');
    // Whoever was signed in with the old one is not any more.
    const ended = await Session.destroy({ where: { memberId: Number(req.params.member) } });
    const member = await Member.findByPk(Number(req.params.member), { rejectOnEmpty: true });
    await writeAudit(
      portal.id,
      bench.signed(res),
      'set a password',
      `of ${member.name} ` +
        `<${member.email}>` +
        (ended === 0 ? '' : `, who was signed in ${ended === 1 ? 'once' : `${ended} times`} and is not any more`),
    );
    res.status(204).end();
  });

  return router;
}
