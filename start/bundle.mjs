// Puts the server's TypeScript together once, so that neither a start nor a thread has to read it piece by piece.
import { createHash } from 'node:crypto';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join, relative } from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './install.mjs';

const folders = ['core', 'sections', 'server', 'demo', 'standins', 'start'];
/** A server that runs may still read from what it began with. */
const kept = 3;

/**
 * The address of the folder in which the server stands as JavaScript, made when its sources have changed: `run.mjs`
 * starts it, `worker-process.mjs` is one of several that serve, `cluster.mjs` runs several on one machine, `portal.mjs`
 * is the command line, `worker.mjs` and `tasks.mjs` are its threads. Threads of this process use it from then on.
 */
export async function bundledServer() {
  const all = join(root, 'dist', 'server');
  const folder = join(all, hashOfSources());
  if (!existsSync(folder)) {
    mkdirSync(all, { recursive: true });
    // Of two that begin at once each makes its own, and the second finds the first one's there.
    const made = mkdtempSync(join(all, 'new-'));
    try {
      await bundle(made);
      // Whoever starts it next may be somebody else than who did first.
      chmodSync(made, 0o755);
      if (!existsSync(folder)) renameSync(made, folder);
    } catch (error) {
      if (!existsSync(folder)) throw error;
    } finally {
      rmSync(made, { recursive: true, force: true });
    }
    forgetOld(all);
  }
  const address = pathToFileURL(folder).href;
  process.env.STONE_PORCH_BUNDLE = address;
  return address;
}

const bundle = (outdir) =>
  putTogether(outdir, {
    run: 'start/run.ts',
    portal: 'start/portal.ts',
    cluster: 'start/cluster.ts',
    'worker-process': 'start/worker-process.ts',
    worker: 'server/worker.ts',
    tasks: 'server/threads/tasks.ts',
  });

/** Packages that stay outside, each for a reason of its own. */
const standAlone = [
  // They have compiled parts, or look for files beside their own.
  '@node-rs/argon2',
  'sharp',
  'piscina',
  'pino',
  'vite',
  'esbuild',
  'tsx',
  // It is mended by us where it stands (server/formats/read-spreadsheet.ts).
  'exceljs',
  // CommonJS that is read late: see `refuseLateCommonJs`.
  '@zxcvbn-ts/language-common',
  // They are not there: others can do more with them.
  'pg-native',
  'pg-hstore',
];

/** What no server needs: programs for development may be put together too, and use it from where it stands. */
const forDevelopment = Object.keys(JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')).devDependencies);

/** What CommonJS has without asking. */
const asCommonJs = `
import { createRequire as requireFrom } from 'node:module';
import { fileURLToPath as pathOfUrl } from 'node:url';
const require = requireFrom(import.meta.url);
const __filename = pathOfUrl(import.meta.url);
const __dirname = pathOfUrl(new URL('.', import.meta.url));`;

/**
 * Puts programs of this repository together as the server is: `entryPoints` are their files by their names. Packages go
 * in too, since Node takes longer to find and read their thousands of files than to run them.
 */
export async function putTogether(outdir, entryPoints) {
  const { build } = await import('esbuild');
  const { metafile } = await build({
    absWorkingDir: root,
    entryPoints,
    outdir,
    outExtension: { '.js': '.mjs' },
    chunkNames: '[name]-[hash]',
    bundle: true,
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // Of some packages bundlers take other files than Node does.
    conditions: ['node'],
    metafile: true,
    external: [...standAlone, ...forDevelopment],
    banner: { js: asCommonJs },
    logLevel: 'warning',
    plugins: [whereItStood(outdir), dataOfPackages, withoutCommandLine],
  });
  refuseLateCommonJs(metafile);
}

/** Throws where CommonJS is read by `import()`: put together it would have no names, which Node by itself finds. */
function refuseLateCommonJs({ inputs }) {
  for (const [file, { imports }] of Object.entries(inputs))
    for (const { kind, path, external } of imports)
      if (kind === 'dynamic-import' && !external && inputs[path].format === 'cjs')
        throw new Error(`${file} imports ${path} late, whose names would be lost: add its package to standAlone`);
}

/** What a file looks for beside itself is where its source stands. */
const whereItStood = (outdir) => ({
  name: 'where it stood',
  setup: (build) => {
    const ours = new RegExp(
      `^${root.replaceAll(/[.*+?^${}()|[\]\\]/g, '\\$&')}/(?:${folders.join('|')})/.*\\.(?:ts|mjs)$`,
    );
    build.onLoad({ filter: ours }, async ({ path }) => ({
      contents: (await readFile(path, 'utf8')).replaceAll(
        'import.meta.url',
        `new URL(${JSON.stringify(relative(outdir, path))}, import.meta.url).href`,
      ),
      loader: path.endsWith('.ts') ? 'ts' : 'js',
    }));
  },
});

/** JSON can't be imported by Node 20 as a bundle writes it, so it goes in. */
const dataOfPackages = {
  name: 'data of packages',
  setup: (build) =>
    build.onResolve({ filter: /\.json$/ }, ({ path }) =>
      path.startsWith('.') ? undefined : { path: join(root, 'node_modules', path) },
    ),
};

/** A package that could also be called from a command line, which nobody does: a fifth of what all of them load. */
const withoutCommandLine = {
  name: 'without command line',
  setup: (build) => {
    build.onResolve({ filter: /^@rushstack\// }, () => ({ path: 'none', namespace: 'none' }));
    build.onLoad({ filter: /^none$/, namespace: 'none' }, () => ({
      contents: 'module.exports = { CommandLineAction: class {}, CommandLineParser: class {} };',
    }));
  },
};

function hashOfSources() {
  const hash = createHash('sha256').update(process.version);
  const add = (path) => hash.update(path).update(readFileSync(join(root, path)));
  for (const folder of folders)
    readdirSync(join(root, folder), { recursive: true, withFileTypes: true })
      .filter((each) => each.isFile() && /\.(ts|mjs)$/.test(each.name) && !/\.(test|fixture)\.ts$/.test(each.name))
      .map((each) => relative(root, join(each.parentPath, each.name)))
      .sort()
      .forEach(add);
  add('package-lock.json');
  return hash.digest('hex').slice(0, 16);
}

function forgetOld(all) {
  readdirSync(all)
    .filter((name) => !name.startsWith('new-'))
    .map((name) => ({ name, at: statSync(join(all, name)).mtimeMs }))
    .sort((a, b) => b.at - a.at)
    .slice(kept)
    .forEach(({ name }) => rmSync(join(all, name), { recursive: true, force: true }));
}
