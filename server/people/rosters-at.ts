import { Problem } from '../../core/refusals/problem';
import type { PortalDefinition, Roster } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import type { Runner } from '../sources/source';
import type { CoreServices } from '../definitions/portal-services';
import type { Portal } from '../store/models';

/** A roster with where its rows are. */
export interface RosterAt {
  roster: Roster;
  runner: Runner;
  catalogue: Catalogue;
  /** The product's own schema, where the roster stands on its server. */
  beside: string | null;
}

/** Who somebody is can't be told now. */
export const rostersAway = (): Problem =>
  new Problem(503, 'rosters-away', "The list that says who you are can't be read at the moment. Try again later.");

/** The rosters of a definition, where it has its records. */
export async function rostersOf(
  { sources }: Pick<CoreServices, 'sources'>,
  definition: PortalDefinition,
): Promise<RosterAt[]> {
  if (definition.rosters.length === 0) return [];
  const { source, catalogue } = await sources.of(definition);
  const beside = sources.beside(definition);
  return definition.rosters.map((roster) => ({ roster, runner: source, catalogue, beside }));
}

/**
 * The rosters that members follow: those that are published, and the draft's further ones, so that a portal can be
 * tried as its people before it is published.
 */
export async function rostersFollowed(services: CoreServices, portal: Portal): Promise<RosterAt[]> {
  const { definitions } = services;
  const published =
    portal.publishedVersion === null
      ? []
      : await rostersOf(services, await definitions.version(portal.id, portal.publishedVersion));
  const draft = await definitions.draft(portal);
  const further = draft.rosters.filter(({ table }) => !published.some(({ roster }) => roster.table === table));
  return [...published, ...(await rostersOf(services, { ...draft, rosters: further }))];
}
