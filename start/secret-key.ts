import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Advice } from '../core/refusals/advice';

/**
 * The key under which passwords of connected databases are sealed: STONE_PORCH_KEY (32 bytes in base64), else a file of
 * the data folder that is made once and readable by its owner only.
 */
export function readSecretKey(folder: string): Buffer {
  const given = process.env.STONE_PORCH_KEY;
  const file = join(folder, 'source-key');
  if (given === undefined && !existsSync(file))
    writeFileSync(file, randomBytes(32).toString('base64'), { mode: 0o600 });
  const key = Buffer.from(given ?? readFileSync(file, 'utf8'), 'base64');
  if (key.length !== 32)
    throw new Advice(
      given === undefined
        ? `The key in ${file} is damaged. Restore it; without it the passwords of connected databases must be ` +
            'entered again.'
        : 'STONE_PORCH_KEY must be 32 bytes in base64. Make one with: openssl rand -base64 32',
    );
  return key;
}
