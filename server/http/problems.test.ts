import type { Request, Response } from 'express';
import type { Logger } from 'pino';
import { expect, it } from 'vitest';
import { NotFound } from '../gate/gate';
import { NotKept, onceKept, OutcomeUnknown } from '../sources/outcome-unknown';
import { asProblem, problemHandler } from './problems';

const error = (of: object) => Object.assign(new Error('as a driver says it'), of);
const told = (of: unknown) => {
  const problem = asProblem(of);
  return [problem?.status, problem?.type, problem?.headers['Retry-After']];
};

const lost = error({ code: 'ECONNRESET', sql: 'UPDATE members SET name = ?' });

// Numbers by MariaDB's list of error codes, SQLSTATE by PostgreSQL's appendix A.
it.each([
  ['a statement by itself is lost with its connection', lost, [503, 'outcome-unknown', undefined]],
  ['so is one of a transaction whose end was not asked for', new NotKept(lost), [503, 'source', '10']],
  ['so is a question', error({ code: 'ECONNRESET', sql: 'SELECT 1' }), [503, 'source', '10']],
  ['so is what Sequelize did', { name: 'x', parent: lost, sql: lost.message }, [503, 'outcome-unknown', undefined]],
  ['a node is parted from its cluster while it keeps', error({ errno: 1180 }), [503, 'outcome-unknown', undefined]],
  ['a node is no part of its cluster', error({ errno: 1047, sql: 'SELECT 1' }), [503, 'source', '10']],
  ['two stand in each other’s way', error({ errno: 1213, sql: 'UPDATE x' }), [503, 'contended', '2']],
  ['a lock is waited for too long', { parent: error({ errno: 1205 }) }, [503, 'contended', '2']],
  ['so it is in PostgreSQL', error({ code: '40P01' }), [503, 'contended', '2']],
  [
    'what follows of what is kept finds no room',
    new OutcomeUnknown(error({ errno: 1021 })),
    [503, 'outcome-unknown', undefined],
  ],
  ['nobody foresaw it', error({ errno: 1064 }), [undefined, undefined, undefined]],
])('is said as it is where %s', (_what, of, as) => {
  expect(told(of)).toEqual(as);
});

it('logs as a fault what failed after something was kept, unless it is the database that is away', () => {
  const logged: unknown[] = [];
  const log = { error: (of: unknown) => logged.push(of) } as unknown as Logger;
  const res = { status: () => res, set: () => res, type: () => res, send: () => res } as unknown as Response;
  const handle = (of: unknown) => void problemHandler(log)(of, {} as Request, res, () => undefined);
  handle(new OutcomeUnknown(lost));
  handle(new OutcomeUnknown(error({ errno: 1180 })));
  expect(logged).toEqual([]);
  handle(new OutcomeUnknown(new TypeError('of ours')));
  expect(logged).toEqual([{ fault: expect.objectContaining({ name: 'TypeError' }) }]);
});

it('says of nothing that is kept that nothing was changed', async () => {
  const failed = await onceKept(Promise.reject(new NotFound())).catch((of: unknown) => of);
  expect(told(failed)).toEqual([503, 'outcome-unknown', undefined]);
  expect(await onceKept(Promise.resolve(7))).toBe(7);
});
