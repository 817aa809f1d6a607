import type { Jobs } from '../jobs/jobs';
import type { CoreServices } from '../services';
import type { SignInFailures } from '../sessions/failures';

/** What the routes work with. */
export interface Services extends CoreServices {
  jobs: Jobs;
  failures: SignInFailures;
  /** Where the built web is; null when only the API is served. */
  webFolder: string | null;
  /** The product's own schema, which no portal may connect. */
  ownSchema: string;
  trustProxy: boolean;
}
