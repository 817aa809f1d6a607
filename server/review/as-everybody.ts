import { knownAs, rolesOf, withVisitor, type KnownPerson } from '../../core/access/people';
import type { Person } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import type { CoreServices } from '../definitions/portal-services';
import type { PlacedVisit } from '../gate/gate';
import { callingTo } from '../people/calling';
import { everyone } from '../people/everyone';
import { sightOf } from '../sessions/as-builder';
import { Builder, type Job } from '../store/models';
import { standInKey } from '../store/stand-in';

/** Everybody that a portal has, the visitor among them, and the visit that each would make of a definition now. */
export async function asEverybody(
  services: CoreServices,
  { portalId, ownerId }: Pick<Job, 'portalId' | 'ownerId'>,
  definition: PortalDefinition,
): Promise<{
  people: KnownPerson[];
  visitOf: (known: KnownPerson) => PlacedVisit;
  visitAs: (person: Person) => PlacedVisit;
}> {
  const opened = await services.sources.of(definition);
  const { source, catalogue } = opened;
  const builder = ownerId === null ? null : await Builder.findByPk(ownerId);
  const sight = builder ? sightOf(builder) : ({ withoutSight: true } as const);
  const calling = await callingTo({ definition, catalogue, ...sight }, portalId);
  const members = await everyone(source, catalogue, [definition], portalId, calling);
  const [standIn, moment] = [await standInKey(portalId), new Date()];
  const visitAs = (person: Person): PlacedVisit => ({ ...opened, definition, person, moment, standIn });
  return {
    people: withVisitor(members, definition),
    visitAs,
    visitOf: (known) => visitAs(knownAs(known, rolesOf(definition, catalogue, known))),
  };
}
