import type {
  AuthenticationResponseJSON,
  PublicKeyCredentialCreationOptionsJSON,
  PublicKeyCredentialRequestOptionsJSON,
  RegistrationResponseJSON,
} from '@simplewebauthn/server';
import Joi from 'joi';
import { Problem } from '../../core/refusals/problem';
import { form, said } from '../http/answers';
import { endpoint, type Entry } from '../http/endpoint';
import { readCookie } from '../http/security';
import { AtDoor, refuseShut, type SignInServices } from './at-door';
import type { Doorway } from './doorway';
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
export function passkeyEndpoints(services: SignInServices, entry: Entry<{ at: Doorway }>) {
  const door = new AtDoor(services);
  return {
    askForPasskey: endpoint({
      method: 'POST',
      path: '/passkey',
      says: 'What a browser shows a passkey for. The same for everybody.',
      entry,
      answers: {
        200: form<{ ticket: string; options: PublicKeyCredentialRequestOptionsJSON }>({ ticket: said, options }),
      },
      does: async ({ at, req, res }) => {
        refuseShut(at, 'passkey');
        const asked = await optionsToUse(at);
        const browser = door.browser(req, res, at);
        const content = { challenge: asked.challenge };
        return { ticket: await makeTicket('passkey', at, browser, content, within), options: asked };
      },
    }),
    signInByPasskey: endpoint({
      method: 'POST',
      path: '/sign-in/passkey',
      says: 'Signs somebody in by their passkey, by a cookie.',
      entry,
      body: Joi.object<{ ticket: string; response: AuthenticationResponseJSON }>({ ticket, response: credential }),
      answers: { 200: cameIn },
      does: async ({ at, body, req, res }) => {
        refuseShut(at, 'passkey');
        const right = await door.countedFrom(`passkey of ${at.key}`, req);
        const kept = await takeTicket<{ challenge: string }>('passkey', at, door.knownBrowser(req), body.ticket);
        const owner = kept && (await ownerOf(at, body.response, kept.challenge));
        const person = owner && (await at.known(owner));
        if (!person) throw new Problem(401, 'wrong-passkey', 'This passkey opens nothing here. Sign in another way.');
        await right();
        return door.comeIn(at, person, req, res, true);
      },
    }),
    beginPasskey: endpoint({
      method: 'POST',
      path: '/passkeys/begin',
      says: 'What a browser makes a new passkey with, for whoever is signed in.',
      entry,
      answers: {
        200: form<{ ticket: string; options: PublicKeyCredentialCreationOptionsJSON }>({ ticket: said, options }),
      },
      does: async ({ at, req }) => {
        refuseShut(at, 'passkey');
        const { person } = await whole(req, at);
        const asked = await optionsToAdd(person, at);
        const browser = readCookie(req, at.cookie)!;
        const content = { challenge: asked.challenge };
        return { ticket: await makeTicket('new passkey', at, browser, content, within), options: asked };
      },
    }),
    addPasskey: endpoint({
      method: 'POST',
      path: '/passkeys',
      says: 'Keeps the passkey that the browser made.',
      entry,
      body: Joi.object<{ ticket: string; name: string; response: RegistrationResponseJSON }>({
        ticket,
        name: Joi.string().trim().min(1).max(100).required(),
        response: credential,
      }),
      answers: { 204: null },
      does: async ({ at, body, req }) => {
        refuseShut(at, 'passkey');
        const { person } = await whole(req, at);
        const browser = readCookie(req, at.cookie)!;
        const kept = await takeTicket<{ challenge: string }>('new passkey', at, browser, body.ticket);
        if (!kept || !(await addPasskey(at, person, body.name, body.response, kept.challenge)))
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
