import Joi from 'joi';
import { pagesFor } from '../../core/access/audience';
import { knownAs, rolesOf, type KnownPerson, withVisitor } from '../../core/access/people';
import { partsChanged, type PartChange } from '../../core/definition/parts-changed';
import type { PortalDefinition } from '../../core/definition/definition';
import type { Catalogue } from '../../core/table/catalogue';
import type { CoreServices } from '../definitions/portal-services';
import { Problem } from '../../core/refusals/problem';
import { compareDefinitions, type ComparedGroup } from '../gate/gate';
import type { JobContext } from '../jobs/run-job';
import { callingTo } from '../people/calling';
import { everyone } from '../people/everyone';
import { sightOf } from '../sessions/as-builder';
import { Builder, Portal, type Job } from '../store/models';

/** Which two are compared, by the numbers of their versions: what is live, and the draft, where none is given. */
export interface ChangeReportOrder {
  from: number | null;
  to: number | null;
}

const version = Joi.number().integer().min(1).allow(null).default(null);
export const changeReportInput = Joi.object<ChangeReportOrder>({ from: version, to: version });

/** Throws a Problem 404 where nothing was published that a draft could be compared with. */
export function refuseUnpublished({ publishedVersion }: Portal): number {
  if (publishedVersion === null)
    throw new Problem(404, 'not-found', 'This portal was never published, so there is nothing to compare with.');
  return publishedVersion;
}

/** A page that people get who didn't, or no longer. */
interface PageChange {
  id: string;
  title: string;
  gained: KnownName[];
  lost: KnownName[];
}

/** A person as a report names them; the visitor has no number. */
interface KnownName {
  id: number | null;
  name: string;
}

/** What one definition in place of another would change: in its parts, and in effect, for whom. */
export interface ChangeReport {
  from: number;
  to: number | null;
  /** How many people were asked about. */
  people: number;
  parts: PartChange[];
  pages: PageChange[];
  groups: ComparedGroup[];
}

/** What publishing would change: for whom, on which pages, in which tables, in how many records and cells. */
export async function changeReport(
  { services, job, progress }: JobContext,
  { from, to }: ChangeReportOrder,
): Promise<ChangeReport> {
  const portal = await Portal.findByPk(job.portalId, { rejectOnEmpty: true });
  const first = from ?? refuseUnpublished(portal);
  const [before, after] = await Promise.all([
    services.definitions.version(portal.id, first),
    to === null ? services.definitions.draft(portal) : services.definitions.version(portal.id, to),
  ]);
  return { from: first, to, ...(await changesBetween(services, job, before, after, progress)) };
}

/** What one definition in place of another changes for a portal's people. */
export async function changesBetween(
  services: CoreServices,
  { portalId, ownerId }: Pick<Job, 'portalId' | 'ownerId'>,
  before: PortalDefinition,
  after: PortalDefinition,
  progress: JobContext['progress'] = () => Promise.resolve(),
): Promise<Omit<ChangeReport, 'from' | 'to'>> {
  const { source, catalogue } = await services.sources.of(after);
  const builder = ownerId === null ? null : await Builder.findByPk(ownerId);
  const sight = builder ? sightOf(builder) : ({ withoutSight: true } as const);
  const calling = await callingTo({ definition: after, catalogue, ...sight }, portalId);
  const people = await everyone(source, catalogue, [before, after], portalId, calling);
  const [{ parts }, old] = await Promise.all([services.sources.all(after), services.sources.all(before)]);
  parts.push(...old.parts.filter((part) => !parts.some(({ source: known }) => known === part.source)));
  const groups: ComparedGroup[] = [];
  const tables = parts.reduce((sum, part) => sum + part.catalogue.tables.length, 0);
  let behind = 0;
  for (const part of parts) {
    const along = (done: number) => progress(behind + done, tables);
    groups.push(...(await compareDefinitions(part.source, part.catalogue, before, after, people, new Date(), along)));
    behind += part.catalogue.tables.length;
  }
  return {
    people: people.length,
    parts: partsChanged(before, after),
    pages: pagesChanged(before, after, catalogue, people),
    groups,
  };
}

/** Who gets which page, before and after: by audience, and whoever has not signed in among them. */
function pagesChanged(
  before: PortalDefinition,
  after: PortalDefinition,
  catalogue: Catalogue,
  people: readonly KnownPerson[],
): PageChange[] {
  const moment = new Date();
  const changed = new Map<string, PageChange>();
  const of = ({ id, title }: { id: string; title: string }): PageChange => {
    const known = changed.get(id) ?? { id, title, gained: [], lost: [] };
    changed.set(id, known);
    return known;
  };
  for (const known of withVisitor([...people], before, after)) {
    const pagesIn = (definition: PortalDefinition) =>
      pagesFor({ definition, catalogue, person: knownAs(known, rolesOf(definition, catalogue, known)), moment });
    const [was, is] = [pagesIn(before), pagesIn(after)];
    const name = { id: known.id, name: known.name };
    for (const page of is) if (!was.some(({ id }) => id === page.id)) of(page).gained.push(name);
    for (const page of was) if (!is.some(({ id }) => id === page.id)) of(page).lost.push(name);
  }
  return [...changed.values()].sort((a, b) => b.gained.length + b.lost.length - a.gained.length - a.lost.length);
}
