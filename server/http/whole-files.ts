import type { Readable } from 'node:stream';
import type { RequestHandler } from 'express';

/**
 * Before what sends files by streams: one that went since the server began, as when the web is built anew beside it,
 * ends its own answer. Nobody else listens to such a stream, and its error would end the server. Files are sent whole,
 * as RFC 9110 (14.2) leaves open: of a range that ends before it begins no stream can be made.
 */
export const wholeFiles: RequestHandler = (req, res, next) => {
  delete req.headers.range;
  res.on('pipe', (file: Readable) => file.once('error', () => res.destroy()));
  next();
};
