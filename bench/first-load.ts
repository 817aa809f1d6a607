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
  const size = (...entries: string[]): number => {
    const files = new Set<string>();
    const add = (name: string): void => {
      const part = manifest[name]!;
      if (files.has(part.file)) return;
      files.add(part.file);
      part.imports?.forEach(add);
    };
    entries.forEach(add);
    return [...files].reduce((sum, file) => sum + gzipSync(readFileSync(join(folder, file))).length, 0) / 1000;
  };
  // The sign-in page is all that a first visit loads; the pages behind it come next, and are given too so that nothing
  // hides there.
  const parts: [string, number, string[]][] = [
    ['portal', 120, ['portal.html']],
    ['portal with the pages behind the sign-in', 160, ['portal.html', 'portal/Inside.tsx']],
    ['builder', 130, ['builder.html']],
    ['the Access stage alone', 230, ['builder/access/AccessStage.tsx']],
  ];
  return parts.map(([name, budget, entries]) => {
    const kilobytes = size(...entries);
    return {
      name: `first load, ${name}`,
      ours: round(kilobytes, 1),
      reference: budget,
      unit: 'kB gzipped',
      ratio: round(kilobytes / budget),
      aim: `${budget} kB or less`,
    };
  });
}
