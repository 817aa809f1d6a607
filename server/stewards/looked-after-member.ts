import { Problem } from '../../core/refusals/problem';
import { stewardName } from '../../core/definition/steward-words';
import type { LooksAfter, StewardAct } from '../../core/definition/steward';
import type { CoreServices } from '../definitions/portal-services';
import { at, NotFound, read, Refused, type PlacedVisit } from '../gate/gate';
import { bringInLine } from '../people/bring-in-line';
import { isMoreThanLookedAfter, looksAfter, notLookedAfter } from '../people/looked-after';
import { Portal } from '../store/models';
import { Member, Membership } from '../store/people-models';
import type { PortalVisit } from '../visits/member-visit';

/** Somebody at those whom they look after, and nobody else of the roster. */
export interface AtLookedAfter {
  visit: PlacedVisit & PortalVisit;
  steward: LooksAfter;
}

/** Throws NotFound where the person looks after nobody by this. */
export async function atLookedAfter(asked: PortalVisit, id: string): Promise<AtLookedAfter> {
  const steward = looksAfter(asked.definition, id);
  if (!steward || !asked.person.roles.includes(steward.role)) throw new NotFound('page');
  return { visit: await at({ ...asked, asSteward: id }, steward.roster), steward };
}

/**
 * The member whose row is a record that is looked after; a NotFound for any other record, the same whether it is there
 * or not. Throws Refused where this is not to be done, or not to them.
 */
export async function lookedAfterMember(
  services: CoreServices,
  { visit, steward }: AtLookedAfter,
  id: string,
  act: StewardAct,
): Promise<{ member: Member; portal: Portal }> {
  const { roster } = steward;
  await read(visit.source, visit, roster, id, []);
  if (!steward.may.includes(act)) throw new Refused('You may not do this for the people whom you look after.');
  const portal = await Portal.findByPk(visit.portalId, { rejectOnEmpty: true });
  await bringInLine(services, portal, { rows: new Map([[roster, [id]]]) });
  const membership = await Membership.findOne({
    where: { portalId: portal.id, rosterTable: roster, rowKey: id, holds: true },
  });
  const member = membership && (await Member.findOne({ where: { id: membership.memberId, onRoster: true } }));
  if (!member)
    throw new Problem(
      409,
      'no-member',
      'Nobody can come in by this row: it has no e-mail of its own, or does not count.',
    );
  const { source: runner, catalogue, definition } = visit;
  if (await isMoreThanLookedAfter({ runner, catalogue, definition }, steward, member)) throw notLookedAfter();
  return { member, portal };
}

/** Who does it, as the log says it. */
export const signedAs = ({ visit, steward }: AtLookedAfter): string =>
  `${visit.name} <${visit.person.email}>, ${stewardName(visit.definition, steward)}`;
