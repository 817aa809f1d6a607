import type { Request, Response } from 'express';
import { Problem } from '../../core/refusals/problem';

/**
 * Which of some media types is answered, the first where whoever asks takes any (RFC 9110, 12.5.1); throws a Problem
 * 406 where they take none of them.
 */
export function wantedType<T extends string>(req: Request, res: Response, types: readonly [T, ...T[]]): T {
  res.vary('Accept');
  const type = req.accepts([...types]);
  if (type === false)
    throw new Problem(406, 'not-acceptable', `This is answered as ${types.join(', ')}, and as nothing else.`);
  return type as T;
}
