import { startAuthentication, startRegistration } from '@simplewebauthn/browser';
import { doorAt, type CameIn } from '../client/portal';

/** Signs in by a passkey that the browser finds by itself. */
export async function signInByPasskey(base: string): Promise<CameIn> {
  const { ticket, options } = await doorAt(base)('POST /passkey');
  const response = await startAuthentication({ optionsJSON: options });
  return doorAt(base)('POST /sign-in/passkey', { body: { ticket, response } });
}

/** Makes a passkey and keeps it under a name. */
export async function addPasskey(base: string, name: string): Promise<void> {
  const { ticket, options } = await doorAt(base)('POST /passkeys/begin');
  const response = await startRegistration({ optionsJSON: options });
  await doorAt(base)('POST /passkeys', { body: { ticket, name, response } });
}
