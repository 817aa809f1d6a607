import { build, type Plugin as EsbuildPlugin } from 'esbuild';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Plugin } from 'vitest/config';

const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** What tests stand on, and no part of the browser's. */
const folders = ['core', 'sections', 'server', 'demo', 'standins', 'start', 'bench', 'test'];

/**
 * The sources that tests stand on, as JavaScript that Node reads by itself: Vitest would hand them to each of its
 * processes one by one, and look every name that one takes from another up anew at each use. Made at each run, in a
 * second; tests themselves are read as always. Where tests are run again as sources change, it is of no use.
 */
export function prebuilt(): Plugin {
  const files = sources();
  let building: Promise<string> | null = null;
  return {
    name: 'prebuilt',
    enforce: 'pre',
    async resolveId(source, importer) {
      if (!importer || !source.startsWith('.')) return;
      const file = sourceAt(resolve(dirname(importer.replace(/\?.*$/, '')), source), files);
      return file && madeOf(file, await (building ??= buildAll(files)));
    },
  };
}

/** In Vitest's settings: what was made is not read by Vitest. */
export const made = /\/dist\/tests-/;

const madeOf = (file: string, folder: string) => join(folder, relative(root, file).replace(/\.ts$/, '.mjs'));

const sourceAt = (path: string, files: Set<string>): string | undefined =>
  files.has(path) ? path : files.has(`${path}.ts`) ? `${path}.ts` : undefined;

/** Every file that is TypeScript, no test, and has nothing of the web in it. */
function sources(): Set<string> {
  return new Set(
    folders.flatMap((folder) =>
      readdirSync(join(root, folder), { recursive: true, withFileTypes: true })
        .filter(({ name }) => name.endsWith('.ts') && !/\.(test|d)\.ts$/.test(name))
        .map(({ parentPath, name }) => join(parentPath, name))
        .filter(
          (file) => folder !== 'sections' || !/from '[./]*\/web\/|import\.meta\.glob/.test(readFileSync(file, 'utf8')),
        ),
    ),
  );
}

/** Gives the folder, which is gone when this process ends. */
async function buildAll(files: Set<string>): Promise<string> {
  mkdirSync(join(root, 'dist'), { recursive: true });
  const outdir = mkdtempSync(join(root, 'dist', 'tests-'));
  process.on('exit', () => rmSync(outdir, { recursive: true, force: true }));
  await build({
    absWorkingDir: root,
    entryPoints: [...files],
    outbase: root,
    outdir,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20.19',
    packages: 'external',
    logLevel: 'warning',
    plugins: [eachByItself(files, outdir)],
  });
  return outdir;
}

/** Imports lead to what the imported file was made into, and what a file looks for beside itself is where it stood. */
const eachByItself = (files: Set<string>, outdir: string): EsbuildPlugin => ({
  name: 'each by itself',
  setup(building) {
    building.onResolve({ filter: /^\./ }, ({ path, resolveDir, kind, importer }) => {
      if (kind === 'entry-point') return;
      const file = resolve(resolveDir, path);
      const source = sourceAt(file, files);
      const to = relative(dirname(madeOf(importer, outdir)), source ? madeOf(source, outdir) : file);
      return { path: to.startsWith('.') ? to : `./${to}`, external: true };
    });
    building.onLoad({ filter: /\.ts$/ }, ({ path }) => {
      const at = JSON.stringify(relative(dirname(madeOf(path, outdir)), path));
      const contents = readFileSync(path, 'utf8')
        .replaceAll('import.meta.url', `new URL(${at}, import.meta.url).href`)
        .replaceAll('import.meta.dirname', JSON.stringify(dirname(path)));
      return { contents, loader: 'ts' };
    });
  },
});
