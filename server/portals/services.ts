import type { AuditSeals } from '../audit/seals';
import type { Connections } from '../connections/connections';
import type { PublicForms } from '../forms/at-the-public-form';
import type { SignedLinks } from '../forms/signed-links';
import type { Among } from '../processes/among';
import type { Jobs } from '../jobs/jobs';
import type { CoreServices } from '../definitions/portal-services';
import type { DoorCalls } from '../sign-in/door-calls';
import type { IdentityProviders } from '../sign-in/identity-provider';
import type { SecondFactors } from '../sign-in/second-factor';
import type { SignUpLinks } from '../sign-up/sign-up-link';
import type { SignUps } from '../sign-up/sign-ups';
import type { SignInFailures } from '../sessions/failures';

/** What the routes work with. */
export interface Services extends CoreServices {
  connections: Connections;
  jobs: Jobs;
  failures: SignInFailures;
  seals: AuditSeals;
  calls: DoorCalls;
  providers: IdentityProviders;
  secondFactors: SecondFactors;
  signUps: SignUps;
  signUpLinks: SignUpLinks;
  publicForms: PublicForms;
  signedLinks: SignedLinks;
  /** Where the built web is; null when only the API is served. */
  webFolder: string | null;
  /** The product's own schema, which no portal may connect. */
  ownSchema: string;
  trustProxy: boolean;
  /** With this the server's numbers are told; to nobody without. */
  metricsToken?: string;
  /** The other processes of this server. */
  among: Among;
}
