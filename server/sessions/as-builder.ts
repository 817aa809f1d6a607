import type { CoreServices } from '../definitions/portal-services';
import { behind, type Entry } from '../http/endpoint';
import { Problem } from '../../core/refusals/problem';
import { readCookie } from '../http/security';
import type { JobOwner } from '../jobs/jobs';
import { sessionAtBench } from '../store/bench-sql';
import type { Builder } from '../store/models';
import { builderRules, rulesSetting } from './builder-rules';
import { sessionHolds, tokenHash, touchSession } from './sessions';

export const builderCookie = 'stone_porch_builder';
export const builderCookiePath = '/api/builder';

/** Who builds. */
export interface AtBench {
  builder: Builder;
  /** The builder as the audit log names them. */
  signed: string;
}

/** Lets only owners in, who look after the others; a Problem 403 for other builders. */
export function asOwner(services: Pick<CoreServices, 'followRights'>): Entry<AtBench> {
  return behind(asBuilder(services), (given) => {
    refuseNoOwner(given.builder);
    return Promise.resolve(given);
  });
}

/** Throws where a builder is no owner of the installation. */
export function refuseNoOwner({ right }: Builder): void {
  if (right !== 'owner') throw new Problem(403, 'not-owner', 'Only owners do this: it holds for every portal here.');
}

/** Whether a builder may work at a portal. */
export function mayBuild({ portals }: Builder, portalId: number): boolean {
  return portals === null || (JSON.parse(portals) as number[]).includes(portalId);
}

/** What an opened draft and a person who looks have of it, where a builder is kept from personal data. */
export const sightOf = ({ seesPersonal }: Pick<Builder, 'seesPersonal'>): { withoutSight?: true } =>
  seesPersonal ? {} : { withoutSight: true };

/** What a builder begins is theirs. */
export const builders = ({ id }: Builder): JobOwner => ({ kind: 'builder', id });

/** Said to builders who are kept from personal data where there is nothing that could stand in its place. */
export const keptFromPersonal = (): Problem =>
  new Problem(403, 'personal-data', 'This needs sight of personal data, which you are kept from. Ask an owner for it.');

const signedOut = (): Problem =>
  new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');

/** Lets whoever builds see to their own way in, a reader as well; a Problem 401 for everyone else. */
export function asOneself({ followRights }: Pick<CoreServices, 'followRights'>): Entry<AtBench> {
  return {
    needs: 'builder',
    open: async (req) => {
      const token = readCookie(req, builderCookie);
      const found = token ? await sessionAtBench(tokenHash(token), rulesSetting) : null;
      if (!found || found.session.lacks !== null || found.builder.suspended) throw signedOut();
      const { session, builder } = found;
      const now = new Date();
      if (!sessionHolds(session, now, builderRules(found.rules))) throw signedOut();
      await touchSession(session, now);
      await followRights(found.rightsRevision);
      return { builder, signed: `${builder.name} <${builder.email}>` };
    },
  };
}

/** Lets only signed-in builders in; a Problem 401 for everyone else, 403 where their right or sight is too little. */
export function asBuilder(services: Pick<CoreServices, 'followRights'>): Entry<AtBench> {
  const oneself = asOneself(services);
  return {
    needs: 'builder',
    open: async (req, res, asked) => {
      const given = await oneself.open(req, res, asked);
      if (given.builder.right === 'reader' && !asked.reads)
        throw new Problem(403, 'reader', 'You may look at everything here, and change nothing. Ask an owner for more.');
      if (asked.personal && !given.builder.seesPersonal) throw keptFromPersonal();
      return given;
    },
  };
}
