import { startAuthentication, startRegistration } from '@simplewebauthn/browser';
import { doors, type CameIn } from '../client/portal';

/** Signs in by a passkey that the browser finds by itself. */
export async function signInByPasskey(slug: string): Promise<CameIn> {
  const { ticket, options } = await doors('POST /:slug/passkey', { params: { slug } });
  const response = await startAuthentication({ optionsJSON: options });
  return doors('POST /:slug/sign-in/passkey', { params: { slug }, body: { ticket, response } });
}

/** Makes a passkey and keeps it under a name. */
export async function addPasskey(slug: string, name: string): Promise<void> {
  const { ticket, options } = await doors('POST /:slug/passkeys/begin', { params: { slug } });
  const response = await startRegistration({ optionsJSON: options });
  await doors('POST /:slug/passkeys', { params: { slug }, body: { ticket, name, response } });
}
