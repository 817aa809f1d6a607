import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { root } from '../start/install.mjs';
import { builtWeb } from '../start/web';
import { round, type Figure } from './figures';

type Manifest = Record<string, { file: string; imports?: string[]; isEntry?: boolean }>;

/** JavaScript that each entry needs before anything lazy, gzipped; 1 kB is 1,000 bytes. The reference is the budget. */
export async function firstLoad(): Promise<Figure[]> {
  const folder = await builtWeb(root);
  const manifest = JSON.parse(readFileSync(join(folder, '.vite', 'manifest.json'), 'utf8')) as Manifest;
  const size = (entry: string): number => {
    const files = new Set<string>();
    const add = (name: string): void => {
      const part = manifest[name]!;
      if (files.has(part.file)) return;
      files.add(part.file);
      part.imports?.forEach(add);
    };
    add(entry);
    return [...files].reduce((sum, file) => sum + gzipSync(readFileSync(join(folder, file))).length, 0) / 1000;
  };
  return ([['portal.html', 170], ['builder.html', 450]] as const).map(([entry, budget]) => {
    const kilobytes = size(entry);
    return { name: `first load, ${entry.replace('.html', '')}`, ours: round(kilobytes, 1), reference: budget, unit: 'kB gzipped', ratio: round(kilobytes / budget), aim: `${budget} kB or less` };
  });
}
