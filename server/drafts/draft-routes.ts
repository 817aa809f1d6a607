import type { CoreServices } from '../definitions/portal-services';
import { Router } from 'express';
import Joi from 'joi';
import type { Operation } from 'fast-json-patch';
import { writeDefinition } from '../../core/definition/read';
import { writeAudit } from '../audit/audit';
import { valid } from '../http/problems';
import { readDefinitionAside } from '../threads/aside';
import { changeDraft, stepDraft, type AdmitSources } from './draft';
import type { Bench } from '../bench/bench';

const text = (max: number) => Joi.string().max(max);

const patchBody = Joi.object<{ revision: number; label: string; patch: Operation[] }>({
  revision: Joi.number().integer().required(),
  label: text(200).required(),
  patch: Joi.array()
    .items(
      Joi.object({
        op: Joi.valid('add', 'remove', 'replace', 'move', 'copy', 'test').required(),
        path: text(2000).allow('').required(),
        from: text(2000),
        value: Joi.any(),
      }),
    )
    .min(1)
    .max(2000)
    .required(),
});

/** The draft of a portal: changed by patches, undone and done again, taken out and applied as a file. */
export function draftRoutes(services: CoreServices, bench: Bench, admit: (builderId: number) => AdmitSources): Router {
  const router = Router({ mergeParams: true });
  const { sequelize } = services.store;
  router.patch('/draft', async (req, res) => {
    const { revision, label, patch } = valid(patchBody, req.body);
    const portal = await bench.portalOf(req);
    res.json(await changeDraft(sequelize, portal.id, bench.builder(res).id, revision, label, patch, 'no change'));
  });
  for (const step of ['undo', 'redo'] as const) {
    router.post(`/draft/${step}`, async (req, res) => {
      res.json(await stepDraft(sequelize, (await bench.portalOf(req)).id, step, admit(bench.builder(res).id)));
    });
  }
  router.get('/definition', async (req, res) => {
    const { portal, definition } = await bench.draftOf(req);
    res.attachment(`${portal.slug}.portal.json`).type('json').send(writeDefinition(definition));
  });
  router.put('/definition', async (req, res) => {
    const portal = await bench.portalOf(req);
    // Without a revision it is meant whatever the draft is by now, as from a command line.
    const { revision } = valid(
      Joi.object<{ revision: number }>({ revision: Joi.number().integer().min(0).default(portal.revision) }),
      req.query,
      'query',
    );
    const definition = await readDefinitionAside(req.body);
    const state = await changeDraft(
      sequelize,
      portal.id,
      bench.builder(res).id,
      revision,
      'Apply a definition',
      [{ op: 'replace', path: '', value: definition }],
      admit(bench.builder(res).id),
    );
    await writeAudit(
      portal.id,
      bench.signed(res),
      'applied a definition',
      `to the draft, which has the revision ${state.revision} now`,
    );
    res.json(state);
  });

  return router;
}
