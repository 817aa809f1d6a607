import { spawn } from 'node:child_process';
import { createReadStream, existsSync, readdirSync } from 'node:fs';
import { copyFile, mkdir, readFile, rename, rm } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import { QueryTypes } from 'sequelize';
import { Advice } from '../core/refusals/advice';
import { connectSequelize, type DatabaseAddress } from '../server/sources/connect-sequelize';
import { isKnownMigration } from '../server/store/migrations';
import { backupFiles, digestOf, firstLine, readManifest, runProgram, withClientFile, type Manifest } from './backup';
import { endOf, inFolderBeside } from './folder-beside';
import { markDataFolder, runningDatabase } from './data-folder';
import { startMariadb } from './local-mariadb';

const keyFile = 'source-key';

/**
 * Puts a back-up into a data folder that is new or empty, or into a database server of yours that has none of its
 * schemas' tables. All is looked at before anything is written, and nothing stays of what fails.
 */
export async function restore(
  file: string,
  folder: string,
  own: { address: DatabaseAddress; ownSchema: string } | null,
): Promise<Manifest> {
  refuseTakenFolder(folder, own !== null);
  return inFolderBeside(resolve(folder), async (work) => {
    const unpacked = join(work, 'unpacked');
    await mkdir(unpacked, { recursive: true, mode: 0o700 });
    await runProgram('tar', ['-xf', resolve(file), '-C', unpacked, '--no-same-owner']).catch((error: unknown) => {
      throw new Advice(`${file} can't be read as a back-up: ${firstLine(error)}`);
    });
    const manifest = await readManifest(unpacked);
    if (!isKnownMigration(manifest.migration))
      throw new Advice(
        'This back-up is of a newer Stone Porch: its tables are at ' +
          `${manifest.migration}. Restore it with that version.`,
      );
    const tables = join(unpacked, backupFiles.tables);
    if ((await digestOf(tables).catch(() => '')) !== manifest.sha256)
      throw new Advice('This back-up is damaged: its tables are not as they were written. Take another.');
    if (own) await intoServer(own, manifest, unpacked, folder);
    else await intoFolder(join(work, 'data'), manifest, unpacked, folder);
    return manifest;
  }).catch((error: unknown) => {
    throw error instanceof Advice ? error : new Advice(`Nothing was restored: ${firstLine(error)}`);
  });
}

function refuseTakenFolder(folder: string, hasOwn: boolean): void {
  if (runningDatabase(folder) !== null)
    throw new Advice(
      `Stone Porch runs on ${folder}, and a back-up is never put over what is there. Restore it into a new folder: ` +
        '--data DIR',
    );
  // With a server of yours the folder holds little more than the key.
  if (hasOwn || !existsSync(folder)) return;
  if (readdirSync(folder).length > 0)
    throw new Advice(
      `${folder} holds something already, and a back-up is never put over it. Restore it into a new folder: --data DIR`,
    );
}

/** A data folder of its own is made beside its place, and moved there when it is whole. */
async function intoFolder(fresh: string, manifest: Manifest, unpacked: string, folder: string): Promise<void> {
  await mkdir(fresh, { recursive: true, mode: 0o700 });
  markDataFolder(fresh);
  const local = await startMariadb(fresh, manifest.schemas);
  try {
    await load(local.address, join(unpacked, backupFiles.tables), unpacked);
  } finally {
    await local.stop();
  }
  if (manifest.hasKey) await copyFile(join(unpacked, backupFiles.key), join(fresh, keyFile));
  await rm(folder, { recursive: true, force: true });
  await rename(fresh, folder);
}

async function intoServer(
  { address, ownSchema }: { address: DatabaseAddress; ownSchema: string },
  manifest: Manifest,
  unpacked: string,
  folder: string,
): Promise<void> {
  if (ownSchema !== manifest.ownSchema)
    throw new Advice(
      `The back-up has the product's tables in ${manifest.ownSchema}, and STONE_PORCH_DATABASE names ${ownSchema}. ` +
        `Name ${manifest.ownSchema} there.`,
    );
  const key = manifest.hasKey ? await readFile(join(unpacked, backupFiles.key), 'utf8') : null;
  const there = join(folder, keyFile);
  if (key !== null && existsSync(there) && (await readFile(there, 'utf8')) !== key)
    throw new Advice(
      `${there} is another key than that of the back-up. Move it away, or name another folder: --data DIR`,
    );
  const server = connectSequelize(address, '', 1);
  try {
    const [taken] = await server.query<{ n: number | bigint }>(
      'SELECT COUNT(*) AS n FROM information_schema.TABLES WHERE TABLE_SCHEMA IN (:schemas)',
      { replacements: { schemas: manifest.schemas }, type: QueryTypes.SELECT },
    );
    if (Number(taken!.n) > 0)
      throw new Advice(
        `The server has tables in ${manifest.schemas.join(', ')} already, and a back-up is never put over them. ` +
          'Restore it on an empty one.',
      );
    try {
      await load(address, join(unpacked, backupFiles.tables), unpacked);
    } catch (error) {
      for (const schema of manifest.schemas) {
        await server.query(`DROP DATABASE IF EXISTS \`${schema}\``);
        await server.query(`CREATE DATABASE \`${schema}\` CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci`);
      }
      throw error;
    }
  } finally {
    await server.close();
  }
  if (key === null) return;
  await mkdir(folder, { recursive: true, mode: 0o700 });
  markDataFolder(folder);
  if (!existsSync(there)) await copyFile(join(unpacked, backupFiles.key), there);
}

async function load(address: DatabaseAddress, tables: string, folder: string): Promise<void> {
  await withClientFile(folder, address, async (client) => {
    const child = spawn('mariadb', [`--defaults-file=${client}`, '--default-character-set=utf8mb4'], {
      stdio: ['pipe', 'ignore', 'pipe'],
    });
    const ended = endOf(child, 'mariadb');
    // Why it ended says more than that nobody took what was written.
    const written = pipeline(createReadStream(tables), createGunzip(), child.stdin).catch((error: unknown) => error);
    await ended;
    const failed = await written;
    if (failed) throw failed as Error;
  });
}
