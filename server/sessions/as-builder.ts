import type { CoreServices } from '../definitions/portal-services';
import type { Entry } from '../http/endpoint';
import { Problem } from '../../core/refusals/problem';
import { readCookie } from '../http/security';
import type { JobOwner } from '../jobs/jobs';
import { Builder } from '../store/models';
import { Session } from '../store/people-models';
import { sessionHolds, tokenHash, touchSession } from './sessions';

export const builderCookie = 'stone_porch_builder';
export const builderCookiePath = '/api/builder';

/** Who builds. */
export interface AtBench {
  builder: Builder;
  /** The builder as the audit log names them. */
  signed: string;
}

/** What a builder begins is theirs. */
export const builders = ({ id }: Builder): JobOwner => ({ kind: 'builder', id });

/** Lets only signed-in builders in; a Problem 401 for everyone else. */
export function asBuilder({ followRights }: Pick<CoreServices, 'followRights'>): Entry<AtBench> {
  return {
    needs: 'builder',
    open: async (req) => {
      const token = readCookie(req, builderCookie);
      const session = token ? await Session.findByPk(tokenHash(token)) : null;
      const now = new Date();
      const builder =
        session?.builderId && sessionHolds(session, now) ? await Builder.findByPk(session.builderId) : null;
      if (!session || !builder)
        throw new Problem(401, 'not-signed-in', 'You are not signed in, or your session has ended. Sign in again.');
      await touchSession(session, now);
      await followRights();
      return { builder, signed: `${builder.name} <${builder.email}>` };
    },
  };
}
