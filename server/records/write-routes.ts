import { text } from './record-question';
import { create, edit, type Changes, remove, several, type Write, sayOutcome } from '../gate/gate';
import { Router, type Request, type Response } from 'express';
import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import type { PortalVisit } from '../visits/member-visit';

const changesSchema = Joi.object<Changes>()
  .pattern(Joi.string().max(64), Joi.object({ from: Joi.any().required(), to: Joi.any().required() }))
  .min(1)
  .max(300);

const valuesSchema = Joi.object<Record<string, unknown>>().pattern(Joi.string().max(64), Joi.any()).max(300);
const editBody = Joi.object<{ changes: Changes }>({ changes: changesSchema.required() });
const createBody = Joi.object<{ values: Record<string, unknown> }>({ values: valuesSchema.required() });
const deleteBody = Joi.object<{ seen: Record<string, unknown> }>({ seen: valuesSchema.default({}) });

const severalBody = Joi.object<{ writes: Write[]; mode: 'all or nothing' | 'each by itself' }>({
  writes: Joi.array()
    .items(
      Joi.object({ create: valuesSchema.required() }),
      Joi.object({ edit: text(1000).required(), changes: changesSchema.required() }),
      Joi.object({ delete: text(1000).required(), seen: valuesSchema }),
    )
    .min(1)
    .max(500)
    .required(),
  mode: Joi.valid('all or nothing', 'each by itself').default('all or nothing'),
});

const trialQuery = Joi.object<{ trial: boolean }>({ trial: Joi.boolean().default(false) });

/** Records made, changed and deleted, one or several; in Seen by all of it can only be tried. */
export function writeRoutes(visitOf: (req: Request, res: Response) => Promise<PortalVisit>): Router {
  const router = Router({ mergeParams: true });
  /** The options of a write; in Seen by it can only be tried. */
  const writeOptions = (visit: PortalVisit, req: Request) => {
    const { trial } = valid(trialQuery, req.query, 'query');
    if (visit.seenBy && !trial) throw new Problem(403, 'seen-by', 'Seen by shows the portal and changes nothing.');
    return { trial };
  };
  router.patch('/records/:table/:id', async (req: Request<{ table: string; id: string }>, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { changes } = valid(editBody, req.body);
    res.json({ record: await edit(visit.source, visit, req.params.table, req.params.id, changes, options) });
  });
  router.post('/records/:table', async (req: Request<{ table: string }>, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { values } = valid(createBody, req.body);
    res.status(options.trial ? 200 : 201).json(await create(visit.source, visit, req.params.table, values, options));
  });
  router.delete('/records/:table/:id', async (req: Request<{ table: string; id: string }>, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { seen } = valid(deleteBody, req.body);
    await remove(visit.source, visit, req.params.table, req.params.id, seen, options);
    res.status(204).end();
  });
  router.post('/records/:table/several', async (req: Request<{ table: string }>, res) => {
    const visit = await visitOf(req, res);
    const options = writeOptions(visit, req);
    const { writes, mode } = valid(severalBody, req.body);
    res.json({
      outcomes: (await several(visit.source, visit, req.params.table, writes, mode, options)).map(sayOutcome),
    });
  });
  return router;
}
