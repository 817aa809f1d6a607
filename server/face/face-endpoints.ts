import Joi from 'joi';
import { UniqueConstraintError } from 'sequelize';
import { heldStylesheet } from '../../core/face/stylesheet';
import { faultSaid } from '../../core/refusals/say-fault';
import { Problem } from '../../core/refusals/problem';
import { writeAudit } from '../audit/audit';
import { atPortal, openDraft, type BenchServices } from '../bench/bench';
import { form, said, saidOrNull } from '../http/answers';
import { endpoint } from '../http/endpoint';
import { readAddress } from '../mail/own-address';

/** An origin as it is kept: `https://wells.example.org`. */
const ownAddress = Joi.string()
  .max(300)
  .custom((address: string, helpers) => {
    const url = URL.canParse(address) ? new URL(address) : null;
    // A name with a dot, never a number of the machine. Names of the machine itself (RFC 6761, 6.3) have no TLS, all
    // others have: so no host is had twice.
    const isName = url !== null && /^(?:[a-z0-9-]+\.)+[a-z][a-z0-9-]*$/.test(url.hostname);
    const scheme = url?.hostname.endsWith('.localhost') ? 'http:' : 'https:';
    return isName && url.origin === address && url.protocol === scheme
      ? address
      : faultSaid(helpers, 'must be like https://wells.example.org, without anything behind it');
  });

/** What builders set of a portal's face beside the definition, and the draft's own stylesheet as it would hold. */
export function faceEndpoints(services: BenchServices) {
  return {
    draftStylesheet: endpoint({
      method: 'GET',
      path: '/stylesheet',
      says: "The draft's own stylesheet, held below the portal's root; empty where it has none.",
      entry: openDraft(services),
      answers: { 200: form<{ css: string }>({ css: said.allow('') }) },
      does: ({ draft: { definition } }) =>
        Promise.resolve({ css: heldStylesheet(definition.portal.face?.stylesheet ?? '') }),
    }),
    ownAddress: endpoint({
      method: 'GET',
      path: '/address',
      says: "The portal's own address, null where it has none, and the one where it is found.",
      entry: atPortal(services),
      answers: { 200: form<{ own: string | null; found: string }>({ own: saidOrNull, found: said }) },
      does: async ({ portal }) => ({
        own: portal.address,
        found: `${await readAddress(portal.id)}/p/${portal.slug}`,
      }),
    }),
    setOwnAddress: endpoint({
      method: 'PUT',
      path: '/address',
      says: 'Gives the portal an address of its own, or takes it away. It holds at once.',
      entry: atPortal(services),
      body: Joi.object<{ address: string | null }>({ address: ownAddress.allow(null).required() }),
      answers: { 204: null },
      does: async ({ portal, signed, body: { address }, req }) => {
        const taken = new Problem(422, 'invalid-values', 'This address is taken.', {
          fields: { address: 'This address leads elsewhere already. Choose another.' },
        });
        // Where the bench stands, and is used from, nothing else takes its place.
        const benches = [new URL(await readAddress(null)).host, req.host.toLowerCase()];
        if (address !== null && benches.includes(new URL(address).host)) throw taken;
        await portal.update({ address }).catch((error: unknown) => {
          throw error instanceof UniqueConstraintError ? taken : error;
        });
        await writeAudit(
          portal.id,
          signed,
          address === null ? "took the portal's own address away" : 'gave the portal its own address',
          address ?? '',
        );
      },
    }),
  };
}
