import type { Request } from 'express';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { isPublic } from '../../core/access/public-pages';
import { visitorPerson, type Person } from '../../core/access/person';
import type { PortalDefinition } from '../../core/definition/definition';
import { Problem } from '../../core/refusals/problem';
import type { CoreServices } from '../definitions/portal-services';
import { Assumed } from '../gate/gate';
import type { Entry } from '../http/endpoint';
import { askerOf, type Asker } from '../sources/asker';
import { portalAtDoor, portalQuestion, type FoundPortal } from '../store/door-sql';
import { firstLook } from './first-look';
import { LastSaid } from './last-said';
import { Portal } from '../store/models';
import { historyKeeper } from '../leaving/keep-history';
import { leaverOf } from '../leaving/leaver';
import { standInKey } from '../store/stand-in';
import type { PortalVisit } from './member-visit';

/** So many questions a minute one address may ask of a server without signing in. */
const mostAMinute = 600;

/** Of so many portals it is known what they were at their last visitor. */
const mostPortals = 1000;

/** Whoever has not signed in and sends a public form; who may send one, and how often, is the form's own business. */
export const asPublicSender = (services: CoreServices): Entry<{ visit: PortalVisit }> => atPublic(services, true);

/** Whoever has not signed in, at the public pages of the portal of the address: they look, and change nothing. */
export const asVisitor = (services: CoreServices): Entry<{ visit: PortalVisit }> => atPublic(services, false);

function atPublic(services: CoreServices, sends: boolean): Entry<{ visit: PortalVisit }> {
  const questions = new RateLimiterMemory({ points: mostAMinute, duration: 60 });
  const last = new LastSaid<{ portal: FoundPortal; schema: string }>(mostPortals);
  const isFirst = firstLook();
  return {
    needs: null,
    open: async (req, _res, { reads }) => {
      if (isFirst(req)) await countQuestion(questions, req);
      if (!reads && !sends) throw new Problem(401, 'not-signed-in', 'Sign in to change something here.');
      const slug = String(req.params.slug);
      const portal = await portalAtDoor(slug);
      const visit = await visitorAt(services, portal, { asker: askerOf(req) });
      // What a press writes stands where the question does; a list is read from beside it.
      const schema = sends ? '' : services.sources.ownPrefix(visit.definition);
      if (portal && schema !== null) last.note(slug, { portal, schema });
      return { visit };
    },
    assume: async (req) => {
      const slug = String(req.params.slug);
      const known = last.assume(slug, ({ portal, schema }) => ({
        portal,
        assumed: Assumed.ofLine(portal.print, portalQuestion(slug, schema)),
      }));
      if (!known || !services.isFollowed(known.portal.rightsRevision)) return null;
      const { portal, assumed } = known;
      if (isFirst(req)) await countQuestion(questions, req);
      const visit = await visitorAt(services, portal, { asker: askerOf(req), assumed });
      return { given: { visit }, holds: () => assumed.holds };
    },
  };
}

async function countQuestion(questions: RateLimiterMemory, req: Request): Promise<void> {
  try {
    await questions.consume(req.ip ?? '');
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    const seconds = Math.max(1, Math.ceil(error.msBeforeNext / 1000));
    throw new Problem(
      429,
      'too-many-questions',
      `Too much was asked from here within a minute. Try again in ${seconds} seconds.`,
      {},
      { 'retry-after': String(seconds) },
    );
  }
}

/** The visit of whoever has not signed in, for work that goes on without them. */
export async function absentVisitorVisit(services: CoreServices, portalId: number): Promise<PortalVisit> {
  return visitorAt(services, await Portal.findByPk(portalId));
}

/** By the definition, which is a published one: whoever its visitors are; null where nothing of it is public. */
const visitors = new WeakMap<PortalDefinition, Person | null>();

function visitorOf(definition: PortalDefinition): Person | null {
  let visitor = visitors.get(definition);
  if (visitor === undefined) {
    const isOpen = definition.pages.some((page) => isPublic(page, definition));
    visitors.set(definition, (visitor = isOpen ? visitorPerson(definition) : null));
  }
  return visitor;
}

/** Throws a Problem 404 where nothing of the portal is public, as where there is no portal. */
async function visitorAt(
  services: CoreServices,
  portal: (Pick<Portal, 'id' | 'publishedVersion'> & { rightsRevision?: number }) | null,
  { asker, assumed }: { asker?: Asker; assumed?: Assumed } = {},
): Promise<PortalVisit> {
  const none = () => new Problem(404, 'not-found', 'There is nothing public at this address.');
  if (!portal || portal.publishedVersion === null) throw none();
  await services.followRights(portal.rightsRevision);
  const definition = await services.definitions.version(portal.id, portal.publishedVersion);
  const person = visitorOf(definition);
  if (!person) throw none();
  const { source, catalogue, place, elsewhere } = await services.sources.of(definition, asker);
  const visit: PortalVisit = {
    source,
    catalogue,
    definition,
    person,
    moment: new Date(),
    name: 'Visitor',
    email: null,
    portalId: portal.id,
    seenBy: false,
    standIn: await standInKey(portal.id),
    leaver: () => leaverOf(services, visit),
    history: () =>
      historyKeeper(services, { portalId: portal.id, person, moment: visit.moment, definition, changedBy: null }),
  };
  if (elsewhere) visit.elsewhere = elsewhere;
  if (place !== undefined) visit.place = place;
  if (assumed) visit.assumed = assumed;
  return visit;
}
