import type { Readable } from 'node:stream';
import type { RequestHandler } from 'express';

/**
 * Before what sends files by streams: one that went since the server began, as when the web is built anew beside it,
 * ends its own answer. Nobody else listens to such a stream, and its error would end the server.
 */
export const goneFiles: RequestHandler = (_req, res, next) => {
  res.on('pipe', (file: Readable) => file.once('error', () => res.destroy()));
  next();
};
