import type { Request, Response } from 'express';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import { writeAudit } from '../audit/audit';
import { keptWithStore } from '../store/kept-with-store';
import type { PortalVisit } from './member-visit';

/** So many records that are not there for somebody, within so many seconds, look like trying addresses out. */
const most = 20;
const within = 600;

const misses = keptWithStore(() => new RateLimiterMemory({ points: most, duration: within }));

/** Counts the records that a member asks for and that are not there for them; many are written in the log, once. */
export function countMisses(req: Request, res: Response, { portalId, person, name, email }: PortalVisit): void {
  if (req.params.id === undefined) return;
  res.once('finish', () => {
    if (res.statusCode !== 404) return;
    void misses()
      .penalty(`${portalId}/${person.id}`)
      .then(({ consumedPoints }) =>
        consumedPoints === most
          ? writeAudit(portalId, `${name} <${email}>`, 'tried addresses out', `${most} records within ten minutes`)
          : undefined,
      )
      .catch(() => undefined);
  });
}
