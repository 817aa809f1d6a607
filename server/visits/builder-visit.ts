import { builderPerson } from '../../core/access/person';
import type { CoreServices } from '../definitions/portal-services';
import { filesOf } from '../files/column-files';
import { historyKeeper } from '../leaving/keep-history';
import { at, type PlacedVisit } from '../gate/gate';
import { sightOf } from '../sessions/as-builder';
import { Builder, Portal } from '../store/models';
import type { OpenDraft } from '../bench/bench';
import type { PortalVisit } from './member-visit';
import { standInKey } from '../store/stand-in';

/** The builder before a draft, under their own grant: every table whole, below its ceiling. */
export function asBuilder(draft: Omit<OpenDraft, 'portal'>): PlacedVisit {
  const { source, catalogue, elsewhere, definition, withoutSight } = draft;
  const person = withoutSight ? { ...builderPerson, withoutSight } : builderPerson;
  return { source, catalogue, elsewhere, definition, person, moment: new Date() };
}

/** As `asBuilder`, to read and write all records of the portal as one who keeps it. */
export async function builderAtRecords(services: CoreServices, draft: OpenDraft, name: string): Promise<PortalVisit> {
  const asking = { ...asBuilder(draft), portalId: draft.portal.id };
  return {
    ...asking,
    history: () => historyKeeper(services, { ...asking, changedBy: name }),
    name,
    email: null,
    seenBy: false,
    standIn: await standInKey(draft.portal.id),
    files: filesOf(draft.portal.id, builderPerson),
  };
}

/** The builder before the draft of a portal, at the source of a table; `freshly` reads its catalogue anew. For jobs. */
export async function builderVisit(
  services: CoreServices,
  portalId: number,
  builderId: number | null,
  table: string,
  freshly = false,
): Promise<PlacedVisit> {
  const portal = await Portal.findByPk(portalId, { rejectOnEmpty: true });
  const definition = await services.definitions.draft(portal);
  const builder = builderId === null ? null : await Builder.findByPk(builderId);
  // Who is gone by now sees nothing more than anybody must.
  const sight = builder ? sightOf(builder) : ({ withoutSight: true } as const);
  const standIn = await standInKey(portal.id);
  const visit = async () => {
    const asking = asBuilder({ ...(await services.sources.of(definition)), definition, ...sight });
    const by = { ...asking, portalId, changedBy: builder?.name ?? null };
    return at({ ...asking, standIn, history: () => historyKeeper(services, by) }, table);
  };
  if (freshly) await (await visit()).source.catalogue(true);
  return visit();
}
