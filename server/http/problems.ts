import type { ErrorRequestHandler, RequestHandler, Response } from 'express';
import type Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { placeInWords, sayFault } from '../../core/refusals/say-fault';
import type { Logger } from 'pino';
import { AskerGone } from '../sources/asker';
import { OutcomeUnknown } from '../sources/outcome-unknown';
import { isContended, isDiskFull, isOutcomeUnknown, isSourceAway, wasStopped } from '../sources/connection-problem';

const titles: Record<number, string> = {
  400: 'Bad request',
  401: 'Not signed in',
  403: 'Not allowed',
  404: 'Not found',
  406: 'Not acceptable',
  409: 'Conflict',
  412: 'Changed since',
  413: 'Too large',
  415: 'Unsupported media type',
  422: "Can't be saved",
  429: 'Too many tries',
  500: 'Fault',
  503: 'Not available',
  507: 'No room',
};

/** An error as the problem that people are told; null for one that is a fault of ours. */
export function asProblem(error: unknown): Problem | null {
  if (error instanceof Problem) return error;
  // Before what says that nothing was changed: its cause may be any of those.
  if (isOutcomeUnknown(error))
    return new Problem(
      503,
      'outcome-unknown',
      'The connection to the database was lost in the very moment of saving, so it is not known whether it was ' +
        'kept. Look before you do it again.',
    );
  if (wasStopped(error))
    return new Problem(
      503,
      'too-slow',
      'The database took too long to answer, so the question was stopped. Nothing was changed. Ask for less, ' +
        'or narrow it with a filter.',
    );
  if (isDiskFull(error))
    return new Problem(
      507,
      'no-room',
      'There is no room left where records are kept. Nothing was changed. Tell the people who run this portal; ' +
        'once there is room it works again.',
      {},
      { 'Retry-After': '60' },
    );
  if (isSourceAway(error))
    return new Problem(
      503,
      'source',
      "The records can't be reached at the moment. Nothing was changed. Try again in a few minutes.",
      {},
      { 'Retry-After': '10' },
    );
  if (isContended(error))
    return new Problem(
      503,
      'contended',
      'Others are changing the same at the moment, so this was given up. Nothing was changed. Try again in a few ' +
        'seconds.',
      {},
      { 'Retry-After': '2' },
    );
  // Errors of Express and its body parser carry a status and are safe to say.
  const status = (error as { status?: unknown }).status;
  if (typeof status === 'number' && status >= 400 && status < 500) {
    const detail = status === 413 ? 'The request is too large.' : "The request can't be read.";
    return new Problem(status, 'unreadable', detail);
  }
  return null;
}

/** The last handler: says known errors, logs the others and says only that there was a fault. */
export const problemHandler =
  (log: Logger): ErrorRequestHandler =>
  (error, _req, res, next) => {
    if (res.headersSent) {
      next(error);
      return;
    }
    if (error instanceof AskerGone) {
      res.destroy();
      return;
    }
    const known = asProblem(error);
    // What failed after something was kept is told as such, and is a fault all the same.
    const fault: unknown = error instanceof OutcomeUnknown ? error.cause : error;
    if (!asProblem(fault))
      log.error(
        {
          fault:
            fault instanceof Error
              ? { name: fault.name, code: (fault as { code?: string }).code, stack: stackOf(fault) }
              : 'unknown',
        },
        'fault',
      );
    sendProblem(
      res,
      known ??
        new Problem(
          500,
          'fault',
          'Something went wrong on our side. Nothing was changed. Try again, and tell the people who run this ' +
            'portal if it stays.',
        ),
    );
  };

/** The places of a stack without its message, which may hold values of records. */
function stackOf(error: Error): string {
  return (error.stack ?? '')
    .split('\n')
    .filter((line) => line.trimStart().startsWith('at '))
    .join('\n');
}

function sendProblem(res: Response, problem: Problem): void {
  res
    .status(problem.status)
    .set(problem.headers)
    .type('application/problem+json')
    .send(JSON.stringify(problemBody(problem)));
}

export function problemBody(problem: Problem): Record<string, unknown> {
  return {
    ...problem.extra,
    type: `urn:stone-porch:problem:${problem.type}`,
    title: titles[problem.status] ?? 'Error',
    status: problem.status,
    detail: problem.detail,
  };
}

export const unknownAddress: RequestHandler = () => {
  throw new Problem(404, 'not-found', 'There is nothing at this address.');
};

const wholes = { body: 'what was sent', query: 'the address', address: 'the address' };

/** Schemas with what all of them are asked with: handed over at each use, it would be put together anew each time. */
const asked = { body: new WeakMap<Joi.Schema, Joi.Schema>(), other: new WeakMap<Joi.Schema, Joi.Schema>() };

function askedWhole<T>(schema: Joi.Schema<T>, isBody: boolean): Joi.Schema<T> {
  const known = isBody ? asked.body : asked.other;
  let whole = known.get(schema) as Joi.Schema<T> | undefined;
  if (!whole) {
    whole = schema.prefs({ abortEarly: false, convert: !isBody, errors: { wrap: { label: false } } });
    known.set(schema, whole);
  }
  return whole;
}

/** Validates input from outside; throws a Problem that names each place that is wrong. */
export function valid<T>(schema: Joi.Schema<T>, input: unknown, what: 'body' | 'query' | 'address' = 'body'): T {
  const { error, value } = askedWhole(schema, what === 'body').validate(input ?? {});
  if (!error) return value as T;
  const faults = error.details.map((detail) => ({ place: detail.path.join('.'), reason: sayFault(detail) }));
  const said = error.details
    .slice(0, 10)
    .map((detail) => `${placeInWords(detail.path) || wholes[what]} ${sayFault(detail)}`);
  throw new Problem(
    400,
    'invalid-input',
    `This can't be taken: ` +
      `${said.join('; ')}${error.details.length > 10 ? `; and ${error.details.length - 10} more faults` : ''}.`,
    { faults },
  );
}
