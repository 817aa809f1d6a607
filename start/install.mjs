// Installs what a command needs and is not there yet. Runs before any package is installed, so it uses Node alone.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** Programs from Debian's packages: where they are looked for, and the packages that bring them. */
const programs = {
  mariadb: {
    file: '/usr/sbin/mariadbd',
    packages: ['mariadb-server-core', 'mariadb-client-core'],
    also: '/usr/bin/my_print_defaults',
  },
  // Only the tests and benchmarks use it. Debian keeps each version in a folder of its own; the client alone makes one
  // too.
  postgresql: { versions: '/usr/lib/postgresql', file: 'bin/postgres', packages: ['postgresql'] },
  // Back-ups need it, and nothing else.
  dump: { file: '/usr/bin/mariadb-dump', packages: ['mariadb-client'] },
  // Nodes of a cluster, how one copies another, and the proxy before them.
  cluster: {
    file: '/usr/lib/galera/libgalera_smm.so',
    packages: ['galera-4', 'mariadb-backup', 'socat', 'iproute2', 'haproxy'],
    also: '/usr/sbin/haproxy',
  },
  copying: { file: '/usr/bin/mbstream', packages: ['mariadb-backup', 'socat'] },
  chromium: { file: '/usr/bin/chromium-headless-shell', packages: ['chromium-headless-shell'] },
};

/** A failure that the person can mend: its message says how. */
export class Advice extends Error {}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    throw new Advice(
      `Stone Porch needs Node 20.19 or newer; this is ${process.versions.node}. Install a newer Node and start again.`,
    );
  }
}

function isThere({ versions, file, also }) {
  if (versions)
    return existsSync(versions) && readdirSync(versions).some((version) => existsSync(join(versions, version, file)));
  return existsSync(file) && (!also || existsSync(also));
}

/** Installs the Debian packages of the programs that are missing. */
export function installPrograms(names) {
  const missing = names.filter((name) => !isThere(programs[name]));
  if (missing.length === 0) return;
  const packages = missing.flatMap((name) => programs[name].packages);
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  if (!existsSync('/usr/bin/apt-get')) {
    throw new Advice(
      `Missing: ${packages.join(', ')}. This is not a Debian system, so install them its own way and start again.`,
    );
  }
  if (process.getuid?.() !== 0) {
    throw new Advice(
      `Missing: ${packages.join(', ')}, and you may not install packages. Run this once, then start again:\n  ` +
        `sudo ${command}`,
    );
  }
  console.log(`Installing ${packages.join(', ')} …`);
  run('apt-get', ['update', '-qq'], true);
  const done = run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], false);
  if (!done)
    throw new Advice(
      `Installing ${packages.join(', ')} failed. Look at the lines above, mend that, and start again; by hand ` +
        `it is:\n  ${command}`,
    );
}

/** Runs npm ci when node_modules does not match the lock file. */
export function installPackages() {
  const wanted = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules', '.installed-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  try {
    accessSync(root, constants.W_OK);
  } catch {
    throw new Advice(
      `The folder ${root} can't be written, so its packages can't be installed. Give yourself the right to ` +
        'write there, or copy it to a folder of your own.',
    );
  }
  console.log('Installing packages …');
  // Development packages too: the web is built here.
  if (!run('npm', ['ci', '--include=dev', '--no-audit', '--no-fund', '--loglevel=error'], false)) {
    throw new Advice(
      'npm ci failed. Look at the lines above; mostly the registry could not be reached. Start again when it can.',
    );
  }
  writeFileSync(stamp, wanted);
}

/**
 * The scripts by which a node of a cluster copies another, in a folder of ours; gives the folder. Debian has them in
 * the package that also sets up a database server for the whole machine, which nobody asked for: it is unpacked, and
 * not installed.
 */
export function unpackCopyScripts() {
  const folder = join(root, 'dist', 'cluster-tools');
  const scripts = join(folder, 'usr', 'bin');
  if (existsSync(join(scripts, 'wsrep_sst_mariabackup'))) return scripts;
  mkdirSync(folder, { recursive: true });
  const made = mkdtempSync(join(folder, 'new-'));
  try {
    const inFolder = { cwd: made, stdio: ['ignore', 'ignore', 'inherit'] };
    const named = spawnSync(
      'apt-get',
      ['download', '-qq', '-o', 'APT::Sandbox::User=root', 'mariadb-server'],
      inFolder,
    );
    const [file] = readdirSync(made).filter((name) => name.endsWith('.deb'));
    const unpacked = file !== undefined && spawnSync('dpkg-deb', ['-x', file, folder], inFolder).status === 0;
    if (named.status !== 0 || !unpacked)
      throw new Advice('The package mariadb-server could not be fetched. Look at the lines above, then start again.');
  } finally {
    rmSync(made, { recursive: true, force: true });
  }
  return scripts;
}

function run(command, args, mayFail) {
  const result = spawnSync(command, args, {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  });
  return mayFail || result.status === 0;
}
