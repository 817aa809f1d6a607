import type {
  AuthenticationResponseJSON,
  PublicKeyCredentialCreationOptionsJSON,
  PublicKeyCredentialRequestOptionsJSON,
  RegistrationResponseJSON,
} from '@simplewebauthn/server';
import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { form, said } from '../http/answers';
import { anybody, endpoint } from '../http/endpoint';
import { readCookie } from '../http/security';
import { Member } from '../store/people-models';
import { memberCookie } from '../visits/member-visit';
import { AtDoor, type SignInServices } from './at-door';
import { memberAtDoor } from './door';
import { addPasskey, optionsToAdd, optionsToUse, ownerOf } from './passkeys';
import { cameIn } from './sign-in-endpoints';
import { makeTicket, takeTicket } from './tickets';

const within = 5 * 60_000;
const ticket = Joi.string().max(100).required();
/** What a browser says of a credential, read by the package that knows its form. */
const credential = Joi.object({ id: Joi.string().max(700).required() })
  .unknown()
  .required();
const options = Joi.object().unknown();

/** Passkeys (WebAuthn): used at the door, and added by whoever is in. */
export function passkeyEndpoints(services: SignInServices) {
  const door = new AtDoor(services);
  return {
    askForPasskey: endpoint({
      method: 'POST',
      path: '/:slug/passkey',
      says: 'What a browser shows a passkey for. The same for everybody.',
      entry: anybody,
      answers: {
        200: form<{ ticket: string; options: PublicKeyCredentialRequestOptionsJSON }>({ ticket: said, options }),
      },
      does: async ({ params: { slug }, req, res }) => {
        const { portal } = await door.with(slug, 'passkey');
        const asked = await optionsToUse();
        const browser = door.browser(req, res, slug);
        const content = { challenge: asked.challenge };
        return { ticket: await makeTicket('passkey', portal.id, browser, content, within), options: asked };
      },
    }),
    signInByPasskey: endpoint({
      method: 'POST',
      path: '/:slug/sign-in/passkey',
      says: 'Signs a member in by their passkey, by a cookie.',
      entry: anybody,
      body: Joi.object<{ ticket: string; response: AuthenticationResponseJSON }>({ ticket, response: credential }),
      answers: { 200: cameIn },
      does: async ({ params: { slug }, body, req, res }) => {
        const at = await door.with(slug, 'passkey');
        const right = await door.countedFrom(`passkey of ${slug}`, req);
        const kept = await takeTicket<{ challenge: string }>(
          'passkey',
          at.portal.id,
          door.knownBrowser(req),
          body.ticket,
        );
        const owner = kept && (await ownerOf(body.response, kept.challenge));
        const known = owner && (await Member.findOne({ where: { id: owner, portalId: at.portal.id } }));
        const member = known ? await memberAtDoor(services, at.portal, known.email) : null;
        if (!member || member.id !== owner)
          throw new Problem(401, 'wrong-passkey', 'This passkey opens nothing here. Sign in another way.');
        await right();
        return door.comeIn(at, member, req, res, true);
      },
    }),
    beginPasskey: endpoint({
      method: 'POST',
      path: '/:slug/passkeys/begin',
      says: 'What a browser makes a new passkey with, for whoever is signed in.',
      entry: anybody,
      answers: {
        200: form<{ ticket: string; options: PublicKeyCredentialCreationOptionsJSON }>({ ticket: said, options }),
      },
      does: async ({ params: { slug }, req }) => {
        const at = await door.with(slug, 'passkey');
        const { member } = await whole(req, at);
        const asked = await optionsToAdd(member, at.definition.portal.name);
        const browser = readCookie(req, memberCookie)!;
        const content = { challenge: asked.challenge };
        return { ticket: await makeTicket('new passkey', at.portal.id, browser, content, within), options: asked };
      },
    }),
    addPasskey: endpoint({
      method: 'POST',
      path: '/:slug/passkeys',
      says: 'Keeps the passkey that the browser made.',
      entry: anybody,
      body: Joi.object<{ ticket: string; name: string; response: RegistrationResponseJSON }>({
        ticket,
        name: Joi.string().trim().min(1).max(100).required(),
        response: credential,
      }),
      answers: { 204: null },
      does: async ({ params: { slug }, body, req }) => {
        const at = await door.with(slug, 'passkey');
        const { member } = await whole(req, at);
        const browser = readCookie(req, memberCookie)!;
        const kept = await takeTicket<{ challenge: string }>('new passkey', at.portal.id, browser, body.ticket);
        if (!kept || !(await addPasskey(member, body.name, body.response, kept.challenge)))
          throw new Problem(422, 'wrong-passkey', 'The passkey could not be added. Try it again.');
      },
    }),
  };

  /** Whoever is in, and lacks nothing. */
  async function whole(...[req, at]: Parameters<AtDoor['session']>) {
    const found = await door.session(req, at);
    if (found.session.lacks !== null)
      throw new Problem(401, 'not-signed-in', 'Give the code of your second factor first.');
    return found;
  }
}
