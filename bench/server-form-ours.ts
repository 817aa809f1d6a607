import { startServer } from '../server/server';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/** The product's server with what it takes at public forms lifted, as a process of its own. */
const server = await startServer({
  database: JSON.parse(process.argv[2]!) as DatabaseAddress,
  ownSchema: 'stone_porch',
  port: 0,
  webFolder: null,
  // Everybody sends from an address of their own, as the bench says in the place of a proxy.
  trustProxy: true,
  publicLimits: { byOne: 1_000_000_000, byAll: 1_000_000_000, least: 0 },
});
process.send!({ port: server.port });
process.once('disconnect', () => void server.close());
