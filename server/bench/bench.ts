import { Problem } from '../../core/refusals/problem';
import type { PortalDefinition } from '../../core/definition/definition';
import { sourceName } from '../../core/definition/sources';
import type { Opened } from '../definitions/definitions';
import type { CoreServices } from '../definitions/portal-services';
import { behind, type Entry } from '../http/endpoint';
import { asBuilder, keptFromPersonal, mayBuild, sightOf, type AtBench } from '../sessions/as-builder';
import { askerOf, type Asker } from '../sources/asker';
import { portalAtBench } from '../store/bench-sql';
import { Version, type Portal } from '../store/models';

/** A portal's draft, with the source of its tables opened. */
export interface OpenDraft extends Opened {
  portal: Portal;
  definition: PortalDefinition;
  /** The builder who looks is kept from personal data. */
  withoutSight?: true;
}

/** What a builder works with at one portal. */
export type BenchServices = CoreServices & {
  connections: { refuseOthersPortal(portalId: number, builderId: number): Promise<void> };
};

type AtPortal = AtBench & { portal: Portal };
type AtDraft = AtPortal & { draft: OpenDraft };

/** The portal of the address; a Problem 404 where there is none, 403 where its connection is other builders'. */
export function atPortal(services: BenchServices): Entry<AtPortal> {
  return behind(asBuilder(services), async (given, req) => {
    const found = await portalAtBench(String(req.params.slug));
    if (!found || !mayBuild(given.builder, found.portal.id))
      throw new Problem(404, 'not-found', 'There is no such portal.');
    const { portal, isAnyKept } = found;
    if (isAnyKept) await services.connections.refuseOthersPortal(portal.id, given.builder.id);
    return { ...given, portal };
  });
}

/** The portal's draft, with its own source opened. */
export function openDraft(services: BenchServices): Entry<AtDraft> {
  return behind(atPortal(services), async (given, req) => {
    const definition = await services.definitions.draft(given.portal);
    return {
      ...given,
      draft: {
        portal: given.portal,
        definition,
        ...(await services.sources.of(definition, askerOf(req))),
        ...sightOf(given.builder),
      },
    };
  });
}

/** As an open draft, what was published as a version, on today's records. */
export async function openVersion(
  services: CoreServices,
  draft: OpenDraft,
  number: number,
  asker?: Asker,
): Promise<OpenDraft> {
  const { portal, withoutSight } = draft;
  // What was published may say less of personal data than the draft does by now.
  if (withoutSight) throw keptFromPersonal();
  const found = await Version.findOne({ where: { portalId: portal.id, number }, attributes: ['outdated'] });
  if (!found) throw new Problem(404, 'not-found', `There is no version ${number}.`);
  if (found.outdated !== null)
    throw new Problem(422, 'outdated', `Version ${number} can't be looked at any more. ${found.outdated}`);
  const definition = await services.definitions.version(portal.id, number);
  return { portal, definition, ...(await services.sources.of(definition, asker)) };
}

/** A draft at the source that holds a table. */
export async function draftAt(draft: OpenDraft, table: string): Promise<OpenDraft> {
  return draft.elsewhere ? { ...draft, ...(await draft.elsewhere(sourceName(draft.definition, table))) } : draft;
}
