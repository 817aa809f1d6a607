import { compareDefinitions, testPromises } from '../gate/gate';
import { readAudit, writeAudit } from '../audit/audit';
import type { Bench } from '../bench/bench';
import { Router, type Response } from 'express';
import Joi from 'joi';
import type { PromiseOutcome } from '../../core/access/promises';
import type { PortalDefinition, PortalPromise } from '../../core/definition/definition';
import { readDefinition } from '../../core/definition/read';
import { findTable } from '../../core/table/catalogue';
import { Problem } from '../../core/refusals/problem';
import { valid } from '../http/problems';
import type { ConnectionServices } from '../connections/connections';
import { everyone } from '../people/everyone';
import { Version, type Portal } from '../store/models';
import { admitSources } from '../connections/admit-sources';
import { publishAgain, publishDraft } from './publish';

const text = (max: number) => Joi.string().max(max);

/** Promises and versions: what becomes live, whichever way, has passed the same checks. */
export function versionRoutes(services: ConnectionServices, bench: Bench): Router {
  const router = Router({ mergeParams: true });
  const { sequelize } = services.store;

  const promisesOf = async (portal: Portal, definition: PortalDefinition): Promise<PromiseOutcome[]> => {
    const { source, catalogue } = await services.sources.of(definition);
    const people = await everyone(source, catalogue, [definition], portal.id);
    const { parts } = await services.sources.all(definition);
    const partOf = (promise: PortalPromise) =>
      parts.find((part) => findTable(part.catalogue, promise.table)) ?? parts[0]!;
    const outcomes = await Promise.all(
      (definition.promises ?? []).map((promise) =>
        testPromises(
          {
            runner: partOf(promise).source,
            catalogue: partOf(promise).catalogue,
            definition: { ...definition, promises: [promise] },
            moment: new Date(),
          },
          people,
        ),
      ),
    );
    return outcomes.flat();
  };

  /**
   * What stands against making a definition live: throws where that can't be passed over, gives the broken promises
   * that were, for the log.
   */
  const refuseRelease = async (
    res: Response,
    portal: Portal,
    definition: PortalDefinition,
    despite: string,
  ): Promise<string[]> => {
    await admitSources(
      services,
      bench.builder(res).id,
    )([definition.source, ...Object.values(definition.sources ?? {})]);
    const broken = (await promisesOf(portal, definition))
      .filter((outcome) => !outcome.kept)
      .map((outcome) => outcome.id);
    if (broken.length > 0 && despite === '')
      throw new Problem(
        422,
        'promises-broken',
        `${broken.length === 1 ? 'A promise is' : `${broken.length} promises are`} broken, so nothing was ` +
          'published. Mend the rules, or say why it shall be published all the same.',
        { broken },
      );
    return broken;
  };
  const noted = (portal: Portal, res: Response, what: string, broken: string[], despite: string) =>
    writeAudit(
      portal.id,
      bench.signed(res),
      broken.length > 0 ? 'published despite a broken promise' : 'published',
      broken.length > 0 ? `${what}, despite ${broken.join(', ')}: ${despite}` : what,
    );

  router.get('/change-report', async (req, res) => {
    const { portal, definition, source, catalogue } = await bench.draftOf(req);
    if (portal.publishedVersion === null)
      throw new Problem(404, 'not-found', 'This portal was never published, so there is nothing to compare with.');
    const published = await services.definitions.version(portal.id, portal.publishedVersion);
    const people = await everyone(source, catalogue, [published, definition], portal.id);
    const [{ parts }, before] = await Promise.all([services.sources.all(definition), services.sources.all(published)]);
    parts.push(...before.parts.filter((part) => !parts.some(({ source: known }) => known === part.source)));
    const groups = await Promise.all(
      parts.map((part) => compareDefinitions(part.source, part.catalogue, published, definition, people, new Date())),
    );
    res.json({ groups: groups.flat() });
  });
  router.get('/log', async (req, res) => {
    res.json({ entries: await readAudit((await bench.portalOf(req)).id, 300) });
  });

  router.get('/promises', async (req, res) => {
    const portal = await bench.portalOf(req);
    res.json({ outcomes: await promisesOf(portal, await services.definitions.draft(portal)) });
  });
  router.get('/versions', async (req, res) => {
    const portal = await bench.portalOf(req);
    const versions = await Version.findAll({
      where: { portalId: portal.id },
      order: [['number', 'DESC']],
      attributes: ['number', 'note', 'publishedBy', 'publishedAt', 'outdated'],
    });
    res.json({ versions, publishedVersion: portal.publishedVersion });
  });
  router.post('/versions', async (req, res) => {
    const body = valid(
      Joi.object<{ revision: number; note: string; despite: string }>({
        revision: Joi.number().integer().required(),
        note: text(500).allow('').required(),
        despite: text(500).trim().allow('').default(''),
      }),
      req.body,
    );
    const portal = await bench.portalOf(req);
    const broken = await refuseRelease(res, portal, await services.definitions.draft(portal), body.despite);
    // What was checked is what is published: a draft that was changed since is refused by its revision.
    const version = await publishDraft(
      sequelize,
      portal.id,
      Math.min(body.revision, portal.revision),
      body.note,
      bench.builder(res).name,
    );
    await noted(portal, res, `version ${version}`, broken, body.despite);
    res.status(201).json({ version });
  });
  router.post('/versions/:number/publish', async (req, res) => {
    const { despite } = valid(
      Joi.object<{ despite: string }>({ despite: text(500).trim().allow('').default('') }),
      req.body,
    );
    const portal = await bench.portalOf(req);
    const number = Number(req.params.number) || 0;
    const version = await Version.findOne({ where: { portalId: portal.id, number } });
    if (!version) throw new Problem(404, 'not-found', `There is no version ${req.params.number}.`);
    if (version.outdated !== null)
      throw new Problem(
        422,
        'outdated',
        `Version ${number} can't be published again. ${version.outdated} Make its changes in the draft, and ` +
          'publish that.',
      );
    const { document } = version;
    const broken = await refuseRelease(res, portal, readDefinition(JSON.parse(document)), despite);
    await publishAgain(sequelize, portal.id, number, document);
    await noted(portal, res, `version ${number} again`, broken, despite);
    res.status(204).end();
  });
  return router;
}
