import express, { type RequestHandler, type Request } from 'express';
import { isSafeNumber, parse } from 'lossless-json';
import { Problem } from '../../core/refusals/problem';

/**
 * A number of so many digits, or with an exponent, may be more than a number of JavaScript holds. It stands where JSON
 * has a value begin, so that the letters and digits of a token are mostly none.
 */
const suspicious = /(?:^|[[:,])\s*-?(?:[\d.]{16}|[\d.]+[eE])/;

/** Whether JSON may hold a number that JavaScript would round. */
export const mayBeRounded = (json: string): boolean => suspicious.test(json);

/**
 * Reads bodies of JSON (RFC 8259), in UTF-8 as it has them sent. Numbers that JavaScript would round come as their
 * text, which the columns' own readers take whole; JSON's own reader would alter them without a word.
 */
export function exactJson(limit: string): RequestHandler[] {
  /** What is to be read again; null where it is not in UTF-8. */
  const seen = new WeakMap<Request, string | null>();
  return [
    express.json({
      limit,
      verify: (req, _res, bytes, encoding) => {
        if (encoding !== 'utf-8') seen.set(req as Request, null);
        else if (mayBeRounded(bytes.toString('latin1'))) seen.set(req as Request, bytes.toString('utf8'));
      },
    }),
    (req, _res, next) => {
      const text = seen.get(req);
      if (text === null) throw new Problem(415, 'unreadable', 'JSON is read in UTF-8 alone. Send it so.');
      if (text !== undefined) req.body = exactly(text);
      next();
    },
  ];
}

function exactly(text: string): unknown {
  try {
    return parse(text, undefined, (number) => (isSafeNumber(number) ? Number(number) : number));
  } catch {
    throw new Problem(400, 'unreadable', "The request can't be read.");
  }
}
