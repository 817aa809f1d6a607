import { startServer } from '../server/server';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';

/** As `server-ours.ts`; asked how much it holds, it clears away what nobody holds and says so. */
const server = await startServer({
  database: JSON.parse(process.argv[2]!) as DatabaseAddress,
  ownSchema: 'stone_porch',
  port: 0,
  webFolder: null,
});
process.on('message', () => {
  for (let i = 0; i < 3; i++) global.gc!();
  process.send!({ held: process.memoryUsage().heapUsed, rss: process.memoryUsage().rss });
});
process.send!({ port: server.port });
process.once('disconnect', () => void server.close());
