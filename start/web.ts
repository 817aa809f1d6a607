import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';

/** Builds the web when its sources have changed since the last build; returns the folder to serve. */
export async function builtWeb(root: string): Promise<string> {
  const folder = join(root, 'dist', 'web');
  const stamp = join(folder, '.sources');
  const sources = hashOf(root, ['web', 'core', 'sections', 'package-lock.json', 'vite.config.ts', 'start/web.ts']);
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === sources) return folder;
  console.log('Building the web …');
  const { build } = await import('vite');
  // Whoever starts it from a test would get React's own checks with it, half as large again.
  const before = process.env.NODE_ENV;
  process.env.NODE_ENV = 'production';
  try {
    await build({ root: join(root, 'web'), configFile: join(root, 'vite.config.ts'), logLevel: 'warn' });
  } finally {
    if (before === undefined) delete process.env.NODE_ENV;
    else process.env.NODE_ENV = before;
  }
  packAssets(join(folder, 'assets'));
  writeFileSync(stamp, sources);
  return folder;
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
