import { createHash, randomBytes } from 'node:crypto';
import { Op } from 'sequelize';
import { Problem } from '../../core/refusals/problem';
import { writeAudit } from '../audit/audit';
import type { OpenDraft } from '../bench/bench';
import { NotFound } from '../gate/gate';
import { ServiceKey } from '../store/key-models';
import { isNetwork } from './network';

/** What builders choose of a key. */
export interface KeyChosen {
  role: string;
  name: string;
  /** The last day on which it holds, as a moment; null for no end. */
  endsAt: Date | null;
  addresses: string[];
  aMinute: number;
}

/** So many of a portal hold at a time. */
const mostKeys = 100;

export const keyHash = (key: string): string => createHash('sha256').update(key).digest('base64url');

/** A key is 256 random bits, after a beginning to know it by: nothing that could be guessed, so its hash is plain. */
function newKey(): { key: string; beginning: string; keyHash: string } {
  const beginning = `porch.${randomBytes(5).toString('hex')}`;
  const key = `${beginning}.${randomBytes(32).toString('base64url')}`;
  return { key, beginning, keyHash: keyHash(key) };
}

const holding = (portalId: number, now: Date) => ({
  portalId,
  [Op.or]: [{ endsAt: null }, { endsAt: { [Op.gt]: now } }],
});

/** Makes a key; it is told this once. */
export async function makeKey(
  { portal, definition }: Pick<OpenDraft, 'portal' | 'definition'>,
  chosen: KeyChosen,
  signed: string,
): Promise<{ id: number; key: string }> {
  const role = definition.roles.find(({ id, for: whom }) => id === chosen.role && whom === 'services');
  if (!role) throw new NotFound('role of services');
  const now = new Date();
  if (chosen.endsAt !== null && chosen.endsAt <= now)
    throw new Problem(422, 'invalid-values', 'This end is past.', { fields: { endsAt: 'Choose a day to come.' } });
  const odd = chosen.addresses.find((each) => !isNetwork(each));
  if (odd !== undefined)
    throw new Problem(422, 'invalid-values', 'That is no address.', {
      fields: { addresses: `“${odd}” is no address and no network: write it like 192.0.2.7 or 2001:db8::/32.` },
    });
  if ((await ServiceKey.count({ where: holding(portal.id, now) })) >= mostKeys)
    throw new Problem(409, 'too-many', `${mostKeys} keys hold already. End some first.`);
  const { key, ...kept } = newKey();
  const made = await ServiceKey.create({
    ...chosen,
    ...kept,
    addresses: JSON.stringify(chosen.addresses),
    portalId: portal.id,
    madeAt: now,
    madeBy: signed,
  });
  await writeAudit(portal.id, signed, 'made a key', `${chosen.name} (${kept.beginning} …) for ${role.name}`);
  return { id: made.id, key };
}

/** A key of the portal that holds; NotFound where there is none. */
export async function heldKey(portalId: number, id: number): Promise<ServiceKey> {
  const found = await ServiceKey.findOne({ where: { id, ...holding(portalId, new Date()) } });
  if (!found) throw new NotFound('key that holds');
  return found;
}

/** Makes another in its place; the one before holds for so many hours more, so that programs can be told. */
export async function replaceKey(
  at: Pick<OpenDraft, 'portal' | 'definition'>,
  id: number,
  hours: number,
  signed: string,
): Promise<{ id: number; key: string }> {
  const before = await heldKey(at.portal.id, id);
  const { role, name, endsAt, addresses, aMinute } = before;
  const chosen = { role, name, endsAt, aMinute, addresses: JSON.parse(addresses) as string[] };
  const made = await makeKey(at, chosen, signed);
  const end = new Date(Date.now() + hours * 3_600_000);
  await before.update({ endsAt: endsAt !== null && endsAt < end ? endsAt : end, endedBy: signed });
  await writeAudit(at.portal.id, signed, 'replaced a key', `${name} (${before.beginning} …), which ends in ${hours} h`);
  return made;
}

/** Ends a key: the next request by it, at whichever server, is refused. */
export async function endKey(portalId: number, id: number, signed: string): Promise<void> {
  const key = await heldKey(portalId, id);
  await key.update({ endsAt: new Date(), endedBy: signed });
  await writeAudit(portalId, signed, 'ended a key', `${key.name} (${key.beginning} …)`);
}
