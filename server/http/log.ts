import { pinoHttp } from 'pino-http';
import type { Logger } from 'pino';

/**
 * One line a request, without personal data: the route's kind and outcome, not the address with ids, search and filter,
 * nor cookies or the sender's address.
 */
export function requestLog(logger: Logger) {
  return pinoHttp({
    logger,
    serializers: {
      req: (req: { method: string; url: string }) => ({ method: req.method, area: req.url.split('?')[0]!.split('/').slice(1, 3).join('/') }),
      res: (res: { statusCode: number }) => ({ status: res.statusCode }),
    },
    customLogLevel: (_req, res, error) => (error || res.statusCode >= 500 ? 'error' : 'debug'),
  });
}
