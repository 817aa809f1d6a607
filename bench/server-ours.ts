import { startServer } from '../server/server';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/** The product's server as a process of its own; the address of the database comes as the first argument. */
const server = await startServer({
  database: JSON.parse(process.argv[2]!) as DatabaseAddress,
  ownSchema: 'stone_porch',
  port: 0,
  webFolder: null,
});
process.send!({ port: server.port });
process.once('disconnect', () => void server.close());
