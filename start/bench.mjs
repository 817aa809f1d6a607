// npm run bench [-- name]: the benchmarks, put together into JavaScript first as the server that runs is.
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { bundledServer, putTogether } from './bundle.mjs';
import { root } from './install.mjs';

await bundledServer();
mkdirSync(join(root, 'dist'), { recursive: true });
const folder = mkdtempSync(join(root, 'dist', 'bench-'));
try {
  await putTogether(folder, { run: 'bench/run.ts' });
  const { status } = spawnSync(process.execPath, [join(folder, 'run.mjs'), ...process.argv.slice(2)], {
    stdio: 'inherit',
  });
  process.exitCode = status ?? 1;
} finally {
  rmSync(folder, { recursive: true, force: true });
}
