import type { Request, RequestHandler } from 'express';
import type { Logger } from 'pino';

/** The kind of address that a request is for: its first two parts, where no id stands. */
export const areaOf = (req: Request): string => req.originalUrl.split('?')[0]!.split('/').slice(1, 3).join('/');

/**
 * One line a request at the level debug, and at error when it failed, without personal data: the method, the kind of
 * address and the outcome; not the ids, search and filter in it, nor cookies or the sender's address.
 */
export function requestLog(logger: Logger): RequestHandler {
  return (req, res, next) => {
    const began = performance.now();
    res.once('finish', () => {
      const level = res.statusCode >= 500 ? 'error' : 'debug';
      if (!logger.isLevelEnabled(level)) return;
      logger[level](
        { method: req.method, area: areaOf(req), status: res.statusCode, ms: Math.round(performance.now() - began) },
        'request',
      );
    });
    next();
  };
}
