/**
 * `npm run mutation [folders of core]`: changes the code here and there and looks whether a test of core notices. Its
 * tool is fetched for it alone, so that nothing else has to.
 */
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './install.mjs';

const version = '9.6.1';
const tools = join(root, 'dist', 'mutation-tools');
const bin = join(tools, 'node_modules', '@stryker-mutator', 'core', 'bin', 'stryker.js');
const run = (command, args) => spawnSync(command, args, { cwd: root, stdio: 'inherit' }).status ?? 1;

if (!existsSync(bin)) {
  const packages = ['core', 'vitest-runner'].map((name) => `@stryker-mutator/${name}@${version}`);
  // Its test runner is the one of the repository.
  const failed = run('npm', [
    'install',
    '--no-save',
    '--no-audit',
    '--legacy-peer-deps',
    '--prefix',
    tools,
    ...packages,
  ]);
  if (failed) process.exit(failed);
}
const folders = process.argv.slice(2);
const asked = (folders.length > 0 ? folders : ['access', 'mask', 'condition']).map((folder) =>
  folder.endsWith('.ts') ? `core/${folder}` : `core/${folder}/*.ts`,
);
const mutate = [...asked, '!core/**/*.test.ts', '!core/**/*.fixture.ts'].join(',');
process.exitCode = run(process.execPath, [bin, 'run', 'test/mutation.config.mjs', '--mutate', mutate]);
