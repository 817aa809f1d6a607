import type {
  AuthenticationResponseJSON,
  AuthenticatorTransport,
  PublicKeyCredentialCreationOptionsJSON,
  PublicKeyCredentialRequestOptionsJSON,
  RegistrationResponseJSON,
} from '@simplewebauthn/server';
import { readAddress } from '../mail/own-address';
import { subjectOf, type Subject } from '../sessions/sessions';
import { Passkey } from '../store/people-models';
import { subjectName, type Doorway, type Person } from './doorway';

/** Read when the first passkey is asked for, not at each start. */
const webAuthn = () => import('@simplewebauthn/server');

/** The door that they are used at. */
type At = Pick<Doorway, 'portalId' | 'title'>;

/** Where passkeys of a portal, or of the bench, hold: a domain, and the pages of it (WebAuthn Level 3, 5.1.3). */
async function place(portalId: number | null): Promise<{ rpID: string; origin: string }> {
  const { hostname, origin } = new URL(await readAddress(portalId));
  return { rpID: hostname, origin };
}

/** What a browser is asked to make a passkey for somebody with. */
export async function optionsToAdd(
  person: Person,
  { portalId, title }: At,
): Promise<PublicKeyCredentialCreationOptionsJSON> {
  const { rpID } = await place(portalId);
  const known = await Passkey.findAll({ where: person.subject });
  return (await webAuthn()).generateRegistrationOptions({
    rpName: title,
    rpID,
    userName: person.email,
    userDisplayName: person.name,
    userID: new TextEncoder().encode(subjectName(person.subject)),
    attestationType: 'none',
    excludeCredentials: known.map(({ id, transports }) => ({ id, transports: transportsOf(transports) })),
    // Found by itself at the door, and opened by its owner alone: so it is as good as two proofs.
    authenticatorSelection: { residentKey: 'required', userVerification: 'required' },
  });
}

/** Keeps the passkey that a browser made; false where its answer is not one to the challenge. */
export async function addPasskey(
  { portalId }: At,
  { subject }: Person,
  name: string,
  response: RegistrationResponseJSON,
  challenge: string,
): Promise<boolean> {
  const { rpID, origin } = await place(portalId);
  const { verifyRegistrationResponse } = await webAuthn();
  const { verified, registrationInfo } = await verifyRegistrationResponse({
    response,
    expectedChallenge: challenge,
    expectedOrigin: origin,
    expectedRPID: rpID,
    requireUserVerification: true,
  }).catch(() => ({ verified: false, registrationInfo: undefined }));
  if (!verified || !registrationInfo) return false;
  const { id, publicKey, counter, transports } = registrationInfo.credential;
  await Passkey.create({
    id,
    ...subject,
    name,
    publicKey: Buffer.from(publicKey).toString('base64url'),
    counter,
    transports: JSON.stringify(transports ?? []),
    madeAt: new Date(),
  });
  return true;
}

/** What a browser is asked to show a passkey with; names nobody's. */
export async function optionsToUse({ portalId }: At): Promise<PublicKeyCredentialRequestOptionsJSON> {
  const { rpID } = await place(portalId);
  return (await webAuthn()).generateAuthenticationOptions({ rpID, userVerification: 'required' });
}

/** Whose passkey signed the challenge; null where it is nobody's, or did not. */
export async function ownerOf(
  { portalId }: At,
  response: AuthenticationResponseJSON,
  challenge: string,
): Promise<Subject | null> {
  const { rpID, origin } = await place(portalId);
  const passkey = await Passkey.findByPk(response.id);
  if (!passkey) return null;
  const { verifyAuthenticationResponse } = await webAuthn();
  const { verified, authenticationInfo } = await verifyAuthenticationResponse({
    response,
    expectedChallenge: challenge,
    expectedOrigin: origin,
    expectedRPID: rpID,
    requireUserVerification: true,
    credential: {
      id: passkey.id,
      publicKey: new Uint8Array(Buffer.from(passkey.publicKey, 'base64url')),
      counter: Number(passkey.counter),
      transports: transportsOf(passkey.transports),
    },
  }).catch(() => ({ verified: false, authenticationInfo: undefined }));
  if (!verified || !authenticationInfo) return null;
  await passkey.update({ counter: authenticationInfo.newCounter, usedAt: new Date() });
  return subjectOf(passkey);
}

const transportsOf = (kept: string) => JSON.parse(kept) as AuthenticatorTransport[];
