import { fork, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { bundledServer, putTogether } from '../start/bundle.mjs';
import { endOf } from '../start/end-of';
import { root } from '../start/install.mjs';

/**
 * `serve.ts` at each port of `E2E_PORTS`, all begun at once: Playwright begins the servers that it is told of one after
 * the other. They are put together first, so that none of them reads its sources piece by piece.
 */
await bundledServer();
mkdirSync(join(root, 'dist'), { recursive: true });
const folder = mkdtempSync(join(root, 'dist', 'e2e-'));
const children: ChildProcess[] = [];
let ending: Promise<void> | null = null;
const end = (code: number): Promise<void> =>
  (ending ??= Promise.all(children.map((child) => endOf(child))).then(() => {
    rmSync(folder, { recursive: true, force: true });
    process.exit(code);
  }));
process.on('SIGTERM', () => void end(0));
try {
  await putTogether(folder, { serve: 'e2e/serve.ts' });
  const begun = process.env.E2E_PORTS!.split(' ').map((port) => {
    // With no loader of ours: what was put together would be read through it once more, in threads as well.
    const child = fork(join(folder, 'serve.mjs'), { env: { ...process.env, E2E_PORT: port }, execArgv: [] });
    children.push(child);
    return new Promise((resolve, reject) => {
      child.once('message', resolve);
      child.once('exit', () => reject(new Error(`the server of port ${port} ended`)));
    });
  });
  await Promise.all(begun);
  console.log('all are serving');
} catch (error) {
  if (!ending) {
    console.error(error);
    await end(1);
  }
}
