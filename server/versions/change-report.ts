import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { compareDefinitions, type ComparedGroup } from '../gate/gate';
import type { JobContext } from '../jobs/run-job';
import { callingTo } from '../people/calling';
import { everyone } from '../people/everyone';
import { sightOf } from '../sessions/as-builder';
import { Builder, Portal } from '../store/models';

/** A change report compares the draft, as it is when the job is done, with what is live then. */
export const changeReportInput = Joi.object<Record<string, never>>({});

/** Throws a Problem 404 where nothing was published that a draft could be compared with. */
export function refuseUnpublished({ publishedVersion }: Portal): number {
  if (publishedVersion === null)
    throw new Problem(404, 'not-found', 'This portal was never published, so there is nothing to compare with.');
  return publishedVersion;
}

/** What publishing the draft would change: for whom, in which tables, in how many records and cells. */
export async function changeReport({ services, job, progress }: JobContext): Promise<{ groups: ComparedGroup[] }> {
  const portal = await Portal.findByPk(job.portalId, { rejectOnEmpty: true });
  const published = await services.definitions.version(portal.id, refuseUnpublished(portal));
  const definition = await services.definitions.draft(portal);
  const { source, catalogue } = await services.sources.of(definition);
  const builder = job.ownerId === null ? null : await Builder.findByPk(job.ownerId);
  const sight = builder ? sightOf(builder) : ({ withoutSight: true } as const);
  const calling = await callingTo({ definition, catalogue, ...sight }, portal.id);
  const people = await everyone(source, catalogue, [published, definition], portal.id, calling);
  const [{ parts }, before] = await Promise.all([services.sources.all(definition), services.sources.all(published)]);
  parts.push(...before.parts.filter((part) => !parts.some(({ source: known }) => known === part.source)));
  const groups: ComparedGroup[] = [];
  for (const [i, part] of parts.entries()) {
    await progress(i, parts.length);
    groups.push(...(await compareDefinitions(part.source, part.catalogue, published, definition, people, new Date())));
  }
  return { groups };
}
