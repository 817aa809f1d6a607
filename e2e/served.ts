import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { root } from '../start/install.mjs';
import { freePort } from '../start/local-mariadb';
import { endOf } from '../start/end-of';

/** The product with the demo in a process beside this one (`serve.ts`); it ends with this one. */
export async function served(): Promise<{ base: string; end(): Promise<void> }> {
  const port = await freePort();
  const server = spawn(process.execPath, ['--import', 'tsx', join(root, 'e2e', 'serve.ts')], {
    env: { ...process.env, E2E_PORT: String(port) },
    // By the channel it notices when this process is gone.
    stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
  });
  await new Promise<void>((resolve, reject) => {
    server.stdout!.on('data', (part: Buffer) => {
      if (part.toString().includes('serving')) resolve();
    });
    server.once('exit', () => reject(new Error('the server ended')));
  });
  return { base: `http://127.0.0.1:${port}`, end: () => endOf(server) };
}
