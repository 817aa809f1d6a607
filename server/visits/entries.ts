import { Problem } from '../../core/refusals/problem';
import { openDraft, openVersion, type BenchServices } from '../bench/bench';
import type { CoreServices } from '../definitions/portal-services';
import { behind, type Entry } from '../http/endpoint';
import type { JobOwner } from '../jobs/jobs';
import { builders } from '../sessions/as-builder';
import { askerOf } from '../sources/asker';
import { builderAtRecords } from './builder-visit';
import { countMisses } from './misses';
import { assumedMemberVisit, memberVisit, type PortalVisit } from './member-visit';
import { seenBy } from './seen-by';

type AtRecords = { visit: PortalVisit };

/** Somebody who may begin jobs, and whose those are. */
type Beginning = AtRecords & { owner: JobOwner };

/** The member whose session the request carries, in the portal of the address. */
export const asMember = (services: CoreServices): Entry<Beginning> => ({
  needs: 'member',
  open: async (req, res) => {
    const visit = await memberVisit(services, req, String(req.params.slug));
    countMisses(req, res, visit);
    return { visit, owner: ownedBy(visit) };
  },
  assume: async (req) => {
    const known = await assumedMemberVisit(services, req, String(req.params.slug));
    return known && { given: { visit: known.visit, owner: ownedBy(known.visit) }, holds: () => known.assumed.holds };
  },
});

const ownedBy = ({ person }: PortalVisit): JobOwner => ({ kind: 'member', id: person.id! });

/** A builder at all records of a portal, under their own grant. */
export const atAllRecords = (services: BenchServices): Entry<Beginning> =>
  behind(openDraft(services), async ({ draft, builder }) => ({
    visit: await builderAtRecords(services, draft, builder.name),
    owner: builders(builder),
  }));

/**
 * A builder as the member of the address gets the draft, or a version that the address names (`17@3`): what is looked
 * at, and as whom, is written in the log.
 */
export const asSeenBy = (services: BenchServices): Entry<AtRecords> =>
  behind(openDraft(services), async ({ draft, signed }, req) => {
    const [, who, version] = /^(.*?)(?:@(\d{1,9}))?$/s.exec(String(req.params.member))!;
    const looked = version === undefined ? draft : await openVersion(services, draft, Number(version), askerOf(req));
    return { visit: await seenBy(looked, who!, signed, version) };
  });

/** Throws where a builder looks as somebody else: nothing may be changed then. */
export function refuseSeenBy({ seenBy: looking }: PortalVisit): void {
  if (looking) throw new Problem(403, 'seen-by', 'Seen by shows the portal and changes nothing.');
}
