import type { CoreServices } from '../definitions/portal-services';
import { asBuilder } from '../visits/builder-visit';
import { count, suggestClasses, suggestCrossings, suggestRelations, tryKey, NotFound } from '../gate/gate';
import { Router } from 'express';
import Joi from 'joi';
import { findTable } from '../../core/table/catalogue';
import { valid } from '../http/problems';
import type { Bench } from '../bench/bench';

const text = (max: number) => Joi.string().max(max);

/** What builders are told of tables: how many records, what their values suggest, whether columns tell them apart. */
export function tableRoutes(services: CoreServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  router.get('/data', async (req, res) => {
    const { definition } = await bench.draftOf(req);
    await Promise.all((await services.sources.all(definition)).parts.map(({ source }) => source.catalogue(true)));
    const { parts } = await services.sources.all(definition);
    const counted = await Promise.all(
      parts.flatMap(({ source, catalogue }) =>
        catalogue.tables.map(async ({ name }) => ({
          name,
          rows: await count(source, asBuilder({ definition, source, catalogue }), name),
        })),
      ),
    );
    res.json({ tables: counted });
  });
  router.get('/data/:table/suggestions', async (req, res) => {
    const { definition, source, catalogue } = await bench.draftAt(req, req.params.table);
    const table = findTable(catalogue, req.params.table);
    if (!table) throw new NotFound('table');
    const others = definition.sources
      ? (await services.sources.all(definition)).parts.filter((part) => part.source !== source)
      : [];
    res.json({
      suggestions: await suggestClasses(source, catalogue, table),
      relations: [
        ...(await suggestRelations(source, catalogue, table)),
        ...(await suggestCrossings({ source, catalogue }, others, table)),
      ],
    });
  });

  router.post('/data/:table/key', async (req, res) => {
    const { key } = valid(
      Joi.object<{ key: string[] }>({ key: Joi.array().items(text(64).required()).unique().min(1).max(8).required() }),
      req.body,
    );
    const { definition, source, catalogue } = await bench.draftAt(req, req.params.table);
    const table = findTable(catalogue, req.params.table);
    if (!table) throw new NotFound('table');
    await tryKey(source, catalogue, definition, table, key);
    res.status(204).end();
  });

  return router;
}
