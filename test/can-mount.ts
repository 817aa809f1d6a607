import { spawnSync } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';

/** Whether something can be given a disk of its own in a folder: not everybody may, nor everywhere. */
export function canMount(at: string): boolean {
  const place = join(at, 'place');
  mkdirSync(place);
  const { status } = spawnSync('mount', ['-t', 'tmpfs', 'tmpfs', place]);
  if (status === 0) spawnSync('umount', [place]);
  rmSync(place, { recursive: true });
  return status === 0;
}
