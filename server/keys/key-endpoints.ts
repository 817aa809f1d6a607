import Joi from 'joi';
import { openDraft, type BenchServices } from '../bench/bench';
import { form, listOf, moment, said, saidOrNull, whole, yesNo } from '../http/answers';
import { endpoint, ownNumber, reply } from '../http/endpoint';
import { ServiceKey } from '../store/key-models';
import { absentServiceVisit } from '../visits/service-visit';
import { referenceFile } from './key-api';
import { keyDocument } from './key-document';
import { sendReference } from './reference-page';
import { endKey, heldKey, makeKey, replaceKey } from './service-keys';

/** A key as builders see it: never the key itself. */
export interface KeyInfo {
  id: number;
  role: string;
  name: string;
  beginning: string;
  addresses: string[];
  aMinute: number;
  madeAt: string;
  madeBy: string;
  endsAt: string | null;
  endedBy: string | null;
  usedAt: string | null;
  usedFrom: string | null;
  holds: boolean;
}

const keyInfo = form<KeyInfo>({
  id: whole,
  role: said,
  name: said,
  beginning: said,
  addresses: listOf(said),
  aMinute: whole,
  madeAt: moment,
  madeBy: said,
  endsAt: moment.allow(null),
  endedBy: saidOrNull,
  usedAt: moment.allow(null),
  usedFrom: saidOrNull,
  holds: yesNo,
});

/** Told once, when it is made. */
const madeKey = form<{ id: number; key: string }>({ id: whole, key: said });

const mostTold = 300;

/** Keys by which programs work as the services of a portal. */
export function keyEndpoints(services: BenchServices) {
  const draft = openDraft(services);
  return {
    keys: endpoint({
      method: 'GET',
      path: '/keys',
      says: 'The keys of the portal, the newest first, with when each was last used; never a key itself.',
      entry: draft,
      answers: { 200: form<{ keys: KeyInfo[] }>({ keys: listOf(keyInfo) }) },
      does: async ({ draft: { portal } }) => {
        const found = await ServiceKey.findAll({
          where: { portalId: portal.id },
          order: [['id', 'DESC']],
          limit: mostTold,
        });
        return { keys: found.map(infoOf) };
      },
    }),
    keyReference: endpoint({
      method: 'GET',
      path: '/keys/:key/reference',
      says: 'What a key has, as a page to read: its tables, columns and operations, under what is published.',
      entry: draft,
      params: { key: ownNumber },
      answers: { 200: referenceFile },
      does: async ({ draft: { portal }, params, res }) => {
        const key = await heldKey(portal.id, params.key);
        const visit = await absentServiceVisit(services, portal.id, key.role);
        sendReference(res, await keyDocument({ ...visit, name: key.name }));
      },
    }),
    makeKey: endpoint({
      method: 'POST',
      path: '/keys',
      says: 'Makes a key for a role of services; the key is told this once.',
      entry: draft,
      // By a key all is read that its service sees.
      personal: true,
      body: Joi.object<{ role: string; name: string; endsAt: string | null; addresses: string[]; aMinute: number }>({
        role: Joi.string().max(40).required(),
        name: Joi.string().trim().min(1).max(80).required(),
        endsAt: Joi.string().isoDate().allow(null).default(null),
        addresses: Joi.array().items(Joi.string().max(64)).unique().max(20).default([]),
        aMinute: Joi.number().integer().min(1).max(100_000).default(600),
      }),
      answers: { 201: madeKey },
      does: async ({ draft: at, signed, body }) => {
        const endsAt = body.endsAt === null ? null : new Date(body.endsAt);
        return reply(201, await makeKey(at, { ...body, endsAt }, signed));
      },
    }),
    replaceKey: endpoint({
      method: 'POST',
      path: '/keys/:key/replacement',
      says: 'Makes another key like this one; this one holds for some hours more, so that programs can be told.',
      entry: draft,
      personal: true,
      params: { key: ownNumber },
      body: Joi.object<{ hours: number }>({
        hours: Joi.number()
          .integer()
          .min(0)
          .max(24 * 90)
          .default(24),
      }),
      answers: { 201: madeKey },
      does: async ({ draft: at, signed, params, body }) =>
        reply(201, await replaceKey(at, params.key, body.hours, signed)),
    }),
    endKey: endpoint({
      method: 'DELETE',
      path: '/keys/:key',
      says: 'Ends a key: the next request by it is refused, at every server.',
      entry: draft,
      params: { key: ownNumber },
      answers: { 204: null },
      does: ({ draft: { portal }, signed, params }) => endKey(portal.id, params.key, signed),
    }),
  };
}

const momentOf = (date: Date | null) => date?.toISOString() ?? null;

function infoOf(key: ServiceKey): KeyInfo {
  return {
    id: key.id,
    role: key.role,
    name: key.name,
    beginning: key.beginning,
    addresses: JSON.parse(key.addresses) as string[],
    aMinute: key.aMinute,
    madeAt: key.madeAt.toISOString(),
    madeBy: key.madeBy,
    endsAt: momentOf(key.endsAt),
    endedBy: key.endedBy,
    usedAt: momentOf(key.usedAt),
    usedFrom: key.usedFrom,
    holds: key.endsAt === null || key.endsAt > new Date(),
  };
}
