import type { RequestHandler } from 'express';
import { Problem } from '../../core/refusals/problem';

/** Deeper than anything that is sent here, and than a reader should have to follow. */
const deepest = 200;

/**
 * Refuses a body that is nested deeper than any of ours, before anybody reads it: what follows each level can take very
 * long on thousands.
 */
export const refuseNested: RequestHandler = (req, _res, next) => {
  const left: [unknown, number][] = [[req.body, 0]];
  for (let at = left.pop(); at; at = left.pop()) {
    const [value, depth] = at;
    if (typeof value !== 'object' || value === null) continue;
    if (depth > deepest)
      throw new Problem(
        400,
        'too-deep',
        `What was sent is nested more than ${deepest} deep, which nothing here is. Nothing was changed.`,
      );
    for (const each of Object.values(value))
      if (typeof each === 'object' && each !== null) left.push([each, depth + 1]);
  }
  next();
};
