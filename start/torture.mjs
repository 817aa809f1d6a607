// npm run torture: installs what a cluster needs, then begins. The rest is in test/torture.
import { spawnSync } from 'node:child_process';
import { checkNode, installPackages, installPrograms, root } from './install.mjs';

checkNode();
installPrograms(['mariadb', 'dump', 'cluster', 'copying']);
installPackages();
const args = ['--import', 'tsx', 'test/torture/run.ts', ...process.argv.slice(2)];
process.exitCode = spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit' }).status ?? 1;
