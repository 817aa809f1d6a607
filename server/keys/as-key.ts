import type { Request, Response } from 'express';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { servicePerson } from '../../core/access/person';
import { Problem } from '../../core/refusals/problem';
import { writeAudit } from '../audit/audit';
import type { CoreServices } from '../definitions/portal-services';
import { Assumed } from '../gate/gate';
import type { Entry } from '../http/endpoint';
import { historyKeeper } from '../leaving/keep-history';
import { leaverOf } from '../leaving/leaver';
import { askerOf, type Asker } from '../sources/asker';
import { Portal } from '../store/models';
import { findKey, isKeyToTouch, keyHolds, keyQuestion, touchKey, type FoundKey } from '../store/key-sql';
import { standInKey } from '../store/stand-in';
import { firstLook } from '../visits/first-look';
import { LastSaid } from '../visits/last-said';
import type { PortalVisit } from '../visits/member-visit';
import { isWithin } from './network';
import { keyHash } from './service-keys';

/** Wrong keys a minute from one address, beyond which it is told to wait. */
const mostWrong = 20;

/** So many keys are known from their last request. */
const mostKnown = 1000;

interface KnownKey {
  key: FoundKey;
  /** What our own tables are called from where the records are. */
  schema: string;
}

/**
 * A program with a key, as the service that the key is of, under what is published. A key is looked up at every
 * request, so that one that was ended is refused at the next, at whichever server.
 */
export function asKey(services: CoreServices): Entry<{ visit: PortalVisit; name: string }> {
  const wrong = new RateLimiterMemory({ points: mostWrong, duration: 60 });
  const counts = new Map<number, RateLimiterMemory>();
  const told = new RateLimiterMemory({ points: 1, duration: 600 });
  const last = new LastSaid<KnownKey>(mostKnown);
  const isFirst = firstLook();
  const note = async (portalId: number, about: string) => {
    // Once in a while, however often it comes.
    const isNew = await told.consume(`${portalId} ${about}`).then(
      () => true,
      () => false,
    );
    if (isNew) await writeAudit(portalId, 'A program', 'refused a key', about);
  };
  return {
    needs: 'key',
    open: async (req, res) => {
      const slug = String(req.params.slug);
      const from = req.ip ?? '';
      const text = bearer(req);
      const hash = text === undefined ? null : keyHash(text);
      const key = hash === null ? null : await findKey(hash, slug);
      if (!key || !keyHolds(key, new Date()) || key.publishedVersion === null) {
        last.forget(`${hash} ${slug}`);
        const tries = await wrong.get(from);
        // Whoever guesses waits; who has a key that holds doesn't wait for them.
        if (tries && tries.consumedPoints >= mostWrong) throw tooMany(res, tries.msBeforeNext);
        if (text) {
          await wrong.penalty(from);
          const portalId = key?.portalId ?? (await Portal.findOne({ where: { slug } }))?.id;
          if (portalId !== undefined)
            await note(portalId, key ? `${key.name}, which has ended` : `unknown, from ${from}`);
        }
        res.set('WWW-Authenticate', 'Bearer');
        throw new Problem(401, 'no-key', 'This needs a key of this portal that holds, as a bearer token (RFC 6750).');
      }
      if (!isWithin(key.addresses, req.ip)) {
        await note(key.portalId, `${key.name} (${key.beginning} …), used from ${from}`);
        throw new Problem(403, 'key-elsewhere', 'This key is not used from this address.');
      }
      if (isFirst(req)) await count(counts, key, res);
      await touchKey(key, from);
      const visit = await visitOf(services, key, { asker: askerOf(req) });
      const schema = services.sources.ownPrefix(visit.definition);
      if (schema === null) last.forget(`${hash} ${slug}`);
      else last.note(`${hash} ${slug}`, { key, schema });
      return { visit, name: key.name };
    },
    assume: async (req, res) => {
      const slug = String(req.params.slug);
      const text = bearer(req);
      const hash = text === undefined ? null : keyHash(text);
      const known =
        hash === null
          ? null
          : last.assume(`${hash} ${slug}`, ({ key, schema }) => ({
              key,
              assumed: Assumed.ofLine(key.print, keyQuestion(hash, slug, schema)),
            }));
      if (!known) return null;
      const { key, assumed } = known;
      const now = new Date();
      const isPlain = keyHolds(key, now) && isWithin(key.addresses, req.ip) && !isKeyToTouch(key, now);
      if (!isPlain || !services.isFollowed(key.rightsRevision)) return null;
      if (isFirst(req)) await count(counts, key, res);
      const visit = await visitOf(services, key, { asker: askerOf(req), assumed });
      return { given: { visit, name: key.name }, holds: () => assumed.holds };
    },
  };
}

const bearer = (req: Request): string | undefined => /^Bearer +(\S{1,200})$/i.exec(req.get('authorization') ?? '')?.[1];

/** Counts a request of a key, and says how many are left (draft-ietf-httpapi-ratelimit-headers, from memory). */
async function count(counts: Map<number, RateLimiterMemory>, { id, aMinute }: FoundKey, res: Response): Promise<void> {
  const limiter = counts.get(aMinute) ?? new RateLimiterMemory({ points: aMinute, duration: 60 });
  counts.set(aMinute, limiter);
  const state = await limiter.consume(String(id)).catch((error: unknown) => {
    if (error instanceof RateLimiterRes) return error;
    throw error;
  });
  const left = Math.max(0, aMinute - state.consumedPoints);
  res.set('RateLimit-Policy', `"minute";q=${aMinute};w=60`);
  res.set('RateLimit', `"minute";r=${left};t=${Math.ceil(state.msBeforeNext / 1000)}`);
  if (state.consumedPoints > aMinute) throw tooMany(res, state.msBeforeNext);
}

function tooMany(res: Response, milliseconds: number): Problem {
  const seconds = String(Math.max(1, Math.ceil(milliseconds / 1000)));
  res.set('Retry-After', seconds);
  return new Problem(429, 'too-many-questions', `Too much was asked within a minute. Try again in ${seconds} seconds.`);
}

async function visitOf(
  services: CoreServices,
  key: FoundKey,
  { asker, assumed }: { asker: Asker | undefined; assumed?: Assumed },
): Promise<PortalVisit> {
  const { portalId, name } = key;
  await services.followRights(key.rightsRevision);
  const definition = await services.definitions.version(portalId, key.publishedVersion!);
  const { source, catalogue, place, elsewhere } = await services.sources.of(definition, asker);
  const person = servicePerson(definition, [key.role]);
  const moment = new Date();
  const visit: PortalVisit = {
    source,
    catalogue,
    definition,
    person,
    moment,
    name,
    email: null,
    portalId,
    seenBy: false,
    standIn: await standInKey(portalId),
    leaver: () => leaverOf(services, visit),
    history: () => historyKeeper(services, { portalId, person, moment, definition, changedBy: name }),
  };
  if (elsewhere) visit.elsewhere = elsewhere;
  if (place !== undefined) visit.place = place;
  if (assumed) visit.assumed = assumed;
  return visit;
}
