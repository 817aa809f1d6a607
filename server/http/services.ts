import type { Logger } from 'pino';
import type { Connections } from '../portals/connections';
import type { Definitions, Sources } from '../portals/definitions';
import type { SignInFailures } from '../sessions/failures';
import type { Store } from '../store/store';

/** What the routes work with. */
export interface Services {
  store: Store;
  sources: Sources;
  definitions: Definitions;
  connections: Connections;
  failures: SignInFailures;
  log: Logger;
  /** Where the built web is; null when only the API is served. */
  webFolder: string | null;
  /** The product's own schema, which no portal may connect. */
  ownSchema: string;
  trustProxy: boolean;
}
