import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

/**
 * Builds the web when its sources have changed since the last build; returns the folder to serve. It is built beside it
 * and put there whole, so that whoever serves from there, or builds at the same time, never sees half of it.
 */
export async function builtWeb(root: string): Promise<string> {
  const folder = join(root, 'dist', 'web');
  const sources = hashOf(root, ['web', 'core', 'sections', 'package-lock.json', 'vite.config.ts', 'start/web.ts']);
  if (sourcesOf(folder) === sources) return folder;
  console.log('Building the web …');
  const { build } = await import('vite');
  mkdirSync(dirname(folder), { recursive: true });
  const beside = mkdtempSync(join(dirname(folder), '.web-'));
  const made = join(beside, 'web');
  // Whoever starts it from a test would get React's own checks with it, half as large again.
  const before = process.env.NODE_ENV;
  process.env.NODE_ENV = 'production';
  try {
    const outDir = { outDir: made, emptyOutDir: true };
    await build({ root: join(root, 'web'), configFile: join(root, 'vite.config.ts'), logLevel: 'warn', build: outDir });
    packAssets(join(made, 'assets'));
    writeFileSync(join(made, stamp), sources);
    putInPlace(made, folder, join(beside, 'before'));
  } finally {
    if (before === undefined) delete process.env.NODE_ENV;
    else process.env.NODE_ENV = before;
    rmSync(beside, { recursive: true, force: true });
  }
  return folder;
}

/** Puts a folder where another may be, which goes to `away`; somebody else may do so at the same time. */
function putInPlace(made: string, folder: string, away: string): void {
  for (;;) {
    try {
      return renameSync(made, folder);
    } catch (error) {
      if (!isOneOf(error, 'ENOTEMPTY', 'EEXIST')) throw error;
    }
    try {
      rmSync(away, { recursive: true, force: true });
      renameSync(folder, away);
    } catch (error) {
      if (!isOneOf(error, 'ENOENT')) throw error;
    }
  }
}

const isOneOf = (error: unknown, ...codes: string[]): boolean =>
  codes.includes((error as NodeJS.ErrnoException).code ?? '');

/** What a build was made of. */
const stamp = '.sources';

function sourcesOf(folder: string): string | null {
  const file = join(folder, stamp);
  return existsSync(file) ? readFileSync(file, 'utf8') : null;
}

/** Beside each file that gets smaller by it, the same in Brotli (RFC 7932) and gzip (RFC 1952), as it is sent. */
function packAssets(folder: string): void {
  for (const name of readdirSync(folder)) {
    const file = join(folder, name);
    const plain = readFileSync(file);
    const packed = {
      br: brotliCompressSync(plain, { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } }),
      gz: gzipSync(plain, { level: 9 }),
    };
    for (const [as, bytes] of Object.entries(packed))
      if (bytes.length < plain.length) writeFileSync(`${file}.${as}`, bytes);
  }
}

function hashOf(root: string, parts: string[]): string {
  const hash = createHash('sha256');
  const add = (path: string): void => {
    hash.update(path).update(readFileSync(join(root, path)));
  };
  for (const part of parts) {
    if (part.includes('.')) add(part);
    else
      for (const entry of readdirSync(join(root, part), { recursive: true, withFileTypes: true })
        .filter((each) => each.isFile())
        .map((each) => join(each.parentPath, each.name))
        .sort())
        add(entry.slice(root.length + 1));
  }
  return hash.digest('hex');
}
