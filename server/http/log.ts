import type { RequestHandler } from 'express';
import type { Logger } from 'pino';

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
      const area = req.originalUrl.split('?')[0]!.split('/').slice(1, 3).join('/');
      logger[level](
        { method: req.method, area, status: res.statusCode, ms: Math.round(performance.now() - began) },
        'request',
      );
    });
    next();
  };
}
