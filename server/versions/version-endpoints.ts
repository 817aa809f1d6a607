import { readDefinition } from '../../sections/definition';
import { writeAudit } from '../audit/audit';
import Joi from 'joi';
import type { PromiseOutcome } from '../../core/access/promises';
import type { PortalDefinition } from '../../core/definition/definition';
import { Problem } from '../../core/refusals/problem';
import { atPortal } from '../bench/bench';
import type { ConnectionServices } from '../connections/connections';
import { form, listOf, whole, wholeOrNull } from '../http/answers';
import { endpoint, ownNumber } from '../http/endpoint';
import { jobState } from '../jobs/job-answers';
import type { Jobs } from '../jobs/jobs';
import { builders } from '../sessions/as-builder';
import { askerOf } from '../sources/asker';
import { Version, type Portal } from '../store/models';
import { promisesOf } from './promises-of';
import { admitSources } from '../connections/admit-sources';
import { publishAgain, publishDraft } from './publish';
import { changeReportInput, refuseUnpublished } from './change-report';
import { promiseOutcome, versionLine, type VersionLine } from './version-answers';

const text = (max: number) => Joi.string().max(max);

/** Promises and versions: what becomes live, whichever way, has passed the same checks. */
export function versionEndpoints(services: ConnectionServices, jobs: Jobs) {
  const { sequelize } = services.store;
  const entry = atPortal(services);
  return {
    changeReport: endpoint({
      method: 'POST',
      reads: true,
      path: '/change-report',
      says:
        'Begins a job that tells what publishing the draft would change, or one version in place of another: for ' +
        'whom, on which pages, in which records and cells.',
      entry,
      body: changeReportInput,
      answers: { 202: jobState },
      does: async ({ portal, builder, body }) => {
        if (body.from === null) refuseUnpublished(portal);
        for (const number of [body.from, body.to])
          if (number !== null && (await Version.count({ where: { portalId: portal.id, number } })) === 0)
            throw new Problem(404, 'not-found', `There is no version ${number}.`);
        return jobs.start('change report', portal.id, builders(builder), body);
      },
    }),
    rehearsal: endpoint({
      method: 'POST',
      reads: true,
      path: '/rehearsal',
      says: 'Begins a job that opens every page as everybody who would get it: which would be empty, and for whom.',
      entry,
      answers: { 202: jobState },
      does: ({ portal, builder }) => jobs.start('rehearsal', portal.id, builders(builder), {}),
    }),
    promises: endpoint({
      method: 'GET',
      path: '/promises',
      says: "Tests the draft's promises on the data as it is.",
      entry,
      answers: { 200: form<{ outcomes: PromiseOutcome[] }>({ outcomes: listOf(promiseOutcome) }) },
      does: async ({ portal, builder, req }) => {
        const definition = await services.definitions.draft(portal);
        return { outcomes: await promisesOf(services, portal, definition, builder, askerOf(req)) };
      },
    }),
    versions: endpoint({
      method: 'GET',
      path: '/versions',
      says: 'Every version, the newest first, and which is live.',
      entry,
      answers: {
        200: form<{ versions: VersionLine[]; publishedVersion: number | null }>({
          versions: listOf(versionLine),
          publishedVersion: wholeOrNull,
        }),
      },
      does: async ({ portal }) => {
        const versions = await Version.findAll({
          where: { portalId: portal.id },
          order: [['number', 'DESC']],
          attributes: ['number', 'note', 'publishedBy', 'publishedAt', 'outdated'],
        });
        return {
          versions: versions.map(({ number, note, publishedBy, publishedAt, outdated }) => ({
            number,
            note,
            publishedBy,
            publishedAt: publishedAt.toISOString(),
            outdated,
          })),
          publishedVersion: portal.publishedVersion,
        };
      },
    }),
    publish: endpoint({
      method: 'POST',
      path: '/versions',
      says: 'Publishes the draft as it was looked at; a broken promise stops it, unless it is said why not.',
      entry,
      body: Joi.object<{ revision: number; note: string; despite: string }>({
        revision: Joi.number().integer().required(),
        note: text(500).allow('').required(),
        despite: text(500).trim().allow('').default(''),
      }),
      answers: { 201: form<{ version: number }>({ version: whole }) },
      does: async ({ portal, builder, signed, body: { revision, note, despite } }) => {
        const draft = await services.definitions.draft(portal);
        const broken = await refuseRelease(services, builder.id, portal, draft, despite);
        // What was checked is what is published: a draft that was changed since is refused by its revision.
        const version = await publishDraft(
          sequelize,
          portal.id,
          Math.min(revision, portal.revision),
          note,
          builder.name,
        );
        await noted(portal, signed, `version ${version}`, broken, despite);
        return { version };
      },
    }),
    publishAgain: endpoint({
      method: 'POST',
      path: '/versions/:number/publish',
      says: 'Makes a version live again.',
      entry,
      params: { number: ownNumber },
      body: Joi.object<{ despite: string }>({ despite: text(500).trim().allow('').default('') }),
      answers: { 204: null },
      does: async ({ portal, builder, signed, params: { number }, body: { despite } }) => {
        const version = await Version.findOne({ where: { portalId: portal.id, number } });
        if (!version) throw new Problem(404, 'not-found', `There is no version ${number}.`);
        if (version.outdated !== null)
          throw new Problem(
            422,
            'outdated',
            `Version ${number} can't be published again. ${version.outdated} Make its changes in the draft, and ` +
              'publish that.',
          );
        const { document } = version;
        const definition = readDefinition(JSON.parse(document));
        const broken = await refuseRelease(services, builder.id, portal, definition, despite);
        await publishAgain(sequelize, portal.id, number, document);
        await noted(portal, signed, `version ${number} again`, broken, despite);
      },
    }),
  };
}

/**
 * What stands against making a definition live: throws where that can't be passed over, gives the broken promises that
 * were, for the log.
 */
async function refuseRelease(
  services: ConnectionServices,
  builderId: number,
  portal: Portal,
  definition: PortalDefinition,
  despite: string,
): Promise<string[]> {
  await admitSources(services, builderId)([definition.source, ...Object.values(definition.sources ?? {})]);
  const broken = (await promisesOf(services, portal, definition))
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
}

function noted(portal: Portal, signed: string, what: string, broken: string[], despite: string): Promise<void> {
  return writeAudit(
    portal.id,
    signed,
    broken.length > 0 ? 'published despite a broken promise' : 'published',
    broken.length > 0 ? `${what}, despite ${broken.join(', ')}: ${despite}` : what,
  );
}
