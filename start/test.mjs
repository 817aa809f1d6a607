// npm test [-- --thorough]: installs what is missing, runs every check, and closes with the sums of all of them.
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { faultWords } from './fault.mjs';
import { Advice, checkNode, installPackages, root } from './install.mjs';
import { browserReport, vitestReport } from './reports.mjs';

// Random tests try more where there is a night for it (test/thorough.ts).
if (process.argv.includes('--thorough')) process.env.STONE_PORCH_THOROUGH = '1';

const results = mkdtempSync(join(tmpdir(), 'stone-porch-results-'));
let passed = 0;
let failed = 0;
/** What failed, and why. */
const told = [];
const folders = ['core', 'server', 'web', 'demo', 'start'];
const others = ['sections', 'bench', 'e2e'];
/** Programs that the tests start. */
const tested = ['mariadb', 'dump', 'postgresql', 'chromium', 'cluster', 'copying'];

let programs = Promise.resolve(0);
try {
  checkNode();
  // What needs packages alone goes on while programs come.
  programs = began('start/install-programs.mjs', ...tested);
  installPackages();

  const cruise = 'node_modules/dependency-cruiser/bin/dependency-cruise.mjs';
  // They only read, so they go side by side.
  await Promise.all([
    check('format', ['node_modules/oxfmt/bin/oxfmt', '--check']),
    check('type check', ['node_modules/typescript7/bin/tsc', '-p', '.']),
    check('lint', ['node_modules/oxlint/bin/oxlint']),
    check('nothing unused', ['node_modules/knip/bin/knip.js']),
    check('sizes of lines and files', ['test/sizes.mjs']),
    check('dependency rules', [cruise, '--config', '.dependency-cruiser.cjs', ...folders, ...others]),
    check('dependency rules of folders', [cruise, '--config', '.dependency-cruiser.folders.cjs', ...folders]),
  ]);

  // The web first: the tests of the start command and of the browser both serve it.
  await check('build of the web', ['--import', 'tsx', 'start/build-web.ts']);

  if ((await programs) !== 0) throw new Advice('Programs that the tests need are missing: see above.');

  const vitest = join(results, 'vitest.json');
  run([
    'node_modules/vitest/vitest.mjs',
    'run',
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${vitest}`,
  ]);
  addUp('unit and server tests', () => vitestReport(vitest));

  const browser = join(results, 'browser.json');
  run(['node_modules/@playwright/test/cli.js', 'test', '--config', 'e2e/playwright.config.ts'], {
    PLAYWRIGHT_JSON_OUTPUT_NAME: browser,
  });
  addUp('browser tests', () => browserReport(browser));
} catch (error) {
  console.error(error instanceof Advice ? error.message : faultWords(error));
  fail('set-up, as said above');
} finally {
  // Programs that are installed by halves would stand in the way of the next try.
  await programs;
  rmSync(results, { recursive: true, force: true });
}
// Told once more, since much was said in between.
if (told.length > 0) console.log(`\n${told.join('\n\n')}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);

function run(args, env = {}) {
  console.log(
    `\n> ${args
      .filter((arg) => !arg.startsWith('-'))
      .slice(0, 1)
      .join(' ')
      .split('/')
      .slice(-1)}`,
  );
  return (
    spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } }).status === 0
  );
}

/** Begins a command of Node and gives its exit code when it ends; what it says is shown at once. */
function began(...args) {
  const child = spawn(process.execPath, args, { cwd: root, stdio: 'inherit' });
  return new Promise((resolve) => {
    child.on('error', () => resolve(1));
    child.on('close', resolve);
  });
}

/** A check that counts as one; what it says is printed when it is done. */
async function check(name, args) {
  const child = spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.setEncoding('utf8').on('data', (text) => (said += text));
  const ok = await new Promise((resolve) => {
    child.on('error', () => resolve(false));
    child.on('close', (code) => resolve(code === 0));
  });
  console.log(`\n${said.trim()}\n${name}: ${ok ? 'passed' : 'FAILED'}`);
  if (ok) passed++;
  else fail(`${name}, as said above`);
}

function fail(what) {
  failed++;
  told.push(`FAILED ${what}`);
}

/** Adds a runner's own sums; a report that is missing or empty is a failure, not a silence. */
function addUp(name, read) {
  try {
    const report = read();
    passed += report.passed;
    failed += report.failed;
    told.push(...report.told);
    console.log(`${name}: ${report.passed} passed, ${report.failed} failed`);
  } catch (error) {
    fail(`${name}: no result (${error.message})`);
    console.log(`${name}: no result (${error.message})`);
  }
}
