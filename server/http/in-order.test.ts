import express, { type RequestHandler } from 'express';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inOrder } from './in-order';

/** What a handler does with a request. */
const kinds = ['lets through', 'lets through later', 'answers', 'fails', 'fails later', 'hands an error on'] as const;

const handlerOf = (kind: (typeof kinds)[number], at: number, log: string[]): RequestHandler => {
  const does: Record<(typeof kinds)[number], RequestHandler> = {
    'lets through': (_req, _res, next) => next(),
    'lets through later': async (_req, _res, next) => {
      await Promise.resolve();
      next();
    },
    answers: (_req, res) => void res.end(`answer of ${at}`),
    fails: () => {
      throw new Error(`failed at ${at}`);
    },
    'fails later': async () => {
      await Promise.resolve();
      throw new Error(`failed later at ${at}`);
    },
    'hands an error on': (_req, _res, next) => next(new Error(`handed on at ${at}`)),
  };
  return (req, res, next) => {
    log.push(`${at} ${kind} ${req.url}`);
    return does[kind](req, res, next);
  };
};

/** What comes of a request that goes through the handlers, as Express takes them. */
async function asked(use: (log: string[]) => RequestHandler[]): Promise<{ text: string; log: string[] }> {
  const log: string[] = [];
  const app = express();
  app.use('/under', ...use(log));
  app.use((_req, res) => void res.end('nobody answered'));
  app.use(
    ((error: Error, _req, res, _next) => void res.end(`caught: ${error.message}`)) as express.ErrorRequestHandler,
  );
  const server = app.listen(0, '127.0.0.1');
  try {
    await new Promise((resolve) => server.once('listening', resolve));
    const { port } = server.address() as { port: number };
    return { text: await (await fetch(`http://127.0.0.1:${port}/under/it?a=1`)).text(), log };
  } finally {
    server.closeAllConnections();
    server.close();
  }
}

describe('handlers as one', () => {
  it('do what Express does with them one after the other', async () => {
    const most = fc.array(fc.constantFrom(...kinds, kinds[0], kinds[1]), { minLength: 1, maxLength: 6 });
    await fc.assert(
      fc.asyncProperty(most, async (chosen) => {
        const each = (log: string[]) => chosen.map((kind, at) => handlerOf(kind, at, log));
        expect(await asked((log) => [inOrder(...each(log))])).toEqual(await asked(each));
      }),
      { numRuns: 40 },
    );
  });
});
