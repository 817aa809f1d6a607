import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../start/install.mjs';

/** Puts lines between the two comments of a name in a file of docs, in the place of what stood there. */
export function writeBetween(name: string, lines: readonly string[], file: string): void {
  const at = join(root, 'docs', file);
  const text = readFileSync(at, 'utf8');
  const marks = [`<!-- ${name} -->`, `<!-- /${name} -->`] as const;
  const [from, to] = [text.indexOf(marks[0]), text.indexOf(marks[1])];
  if (from < 0 || to < 0) throw new Error(`docs/${file} has no place for ${name}`);
  writeFileSync(at, `${text.slice(0, from + marks[0].length)}\n${lines.join('\n')}\n${text.slice(to)}`);
}
