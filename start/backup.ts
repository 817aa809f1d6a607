import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { chmod, copyFile, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import Joi from 'joi';
import { QueryTypes } from 'sequelize';
import type { PortalDefinition } from '../core/definition/definition';
import { Advice } from '../core/refusals/advice';
import type { DatabaseAddress } from '../server/sources/connect-sequelize';
import { endOf, inFolderBeside } from './folder-beside';
import { connectSequelize } from '../server/sources/connect-sequelize';

/** What a back-up says of itself. */
export interface Manifest {
  format: 1;
  madeAt: string;
  ownSchema: string;
  schemas: string[];
  /** The newest change of our tables that it has. */
  migration: string;
  /** Of the tables as they lie in it: SHA-256, in hexadecimal. */
  sha256: string;
  /** Whether the key is in it under which secrets are sealed. */
  hasKey: boolean;
}

const manifestSchema = Joi.object<Manifest>({
  format: Joi.valid(1).required(),
  madeAt: Joi.string().isoDate().required(),
  ownSchema: Joi.string()
    .pattern(/^\w{1,64}$/)
    .required(),
  schemas: Joi.array()
    .items(Joi.string().pattern(/^[\w$-]{1,64}$/))
    .min(1)
    .required(),
  migration: Joi.string().required(),
  sha256: Joi.string().hex().length(64).required(),
  hasKey: Joi.boolean().strict().required(),
});

/** The files in one. */
export const backupFiles = { manifest: 'manifest.json', tables: 'tables.sql.gz', key: 'source-key' } as const;

const ofTheServer = new Set(['information_schema', 'performance_schema', 'mysql', 'sys']);

/**
 * Writes everything that the product keeps, and the records that lie on the same database server, into one file, as
 * they stood at one moment, while it runs. Databases that portals connect elsewhere are not in it. Nothing stays of one
 * that fails.
 */
export async function backUp(
  database: DatabaseAddress,
  ownSchema: string,
  file: string,
  keyFile: string | null,
): Promise<Manifest> {
  const target = resolve(file);
  if (await stat(target).catch(() => null))
    throw new Advice(`${file} is there already. Name a new file; an old back-up is never written over.`);
  return inFolderBeside(target, async (part) => {
    const { schemas, migration } = await whatIsThere(database, ownSchema);
    await withClientFile(part, database, (client) => dump(client, schemas, join(part, backupFiles.tables)));
    if (keyFile) await copyFile(keyFile, join(part, backupFiles.key));
    const manifest: Manifest = {
      format: 1,
      madeAt: new Date().toISOString(),
      ownSchema,
      schemas,
      migration,
      sha256: await digestOf(join(part, backupFiles.tables)),
      hasKey: keyFile !== null,
    };
    await writeFile(join(part, backupFiles.manifest), `${JSON.stringify(manifest, null, 2)}\n`);
    const names = [backupFiles.manifest, backupFiles.tables, ...(keyFile ? [backupFiles.key] : [])];
    const whole = join(part, 'whole.tar');
    await runProgram('tar', ['-cf', whole, '-C', part, ...names]);
    await chmod(whole, 0o600);
    await rename(whole, target);
    return manifest;
  }).catch((error: unknown) => {
    if (error instanceof Advice) throw error;
    throw new Advice(
      `The back-up was not made, and nothing of it stays: ${firstLine(error)}\nLook whether there is room in ` +
        `${dirname(target)}, and make it again.`,
    );
  });
}

async function whatIsThere(
  database: DatabaseAddress,
  ownSchema: string,
): Promise<{ schemas: string[]; migration: string }> {
  const own = connectSequelize(database, ownSchema, 1);
  try {
    const rows = <Row extends object>(text: string) => own.query<Row>(text, { type: QueryTypes.SELECT });
    const found = await rows<{ Database: string }>('SHOW DATABASES');
    const [last] = await rows<{ name: string }>('SELECT MAX(name) AS name FROM migrations');
    // Of a server with others' schemas as well, those alone that the product knows.
    const documents = await rows<{ d: string }>(
      'SELECT draft AS d FROM portals UNION SELECT document AS d FROM versions',
    );
    const named = new Set([ownSchema, ...documents.flatMap(({ d }) => schemasOf(JSON.parse(d) as Sourced))]);
    const schemas = found.map((row) => row.Database).filter((name) => !ofTheServer.has(name) && named.has(name));
    return { schemas, migration: last!.name };
  } finally {
    await own.close();
  }
}

type Sourced = Pick<PortalDefinition, 'source' | 'sources'>;

/** The schemas of a portal on the product's own database server. */
const schemasOf = ({ source, sources = {} }: Sourced): string[] =>
  [source, ...Object.values(sources)].flatMap(({ connection, schema }) => (connection === undefined ? [schema] : []));

/** The client's sign-in in a file of its own, as arguments can be read by others of the machine. */
export async function withClientFile<T>(
  folder: string,
  { host, port, socketPath, user, password }: DatabaseAddress,
  work: (file: string) => Promise<T>,
): Promise<T> {
  const file = join(folder, 'client.cnf');
  const quoted = (text: string) => `"${text.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`;
  const at = socketPath ? `socket=${quoted(socketPath)}` : `host=${quoted(host)}\nport=${port}\nprotocol=tcp`;
  await writeFile(file, `[client]\n${at}\nuser=${quoted(user)}\npassword=${quoted(password)}\n`, { mode: 0o600 });
  try {
    return await work(file);
  } finally {
    await rm(file, { force: true });
  }
}

async function dump(client: string, schemas: string[], file: string): Promise<void> {
  const child = spawn(
    'mariadb-dump',
    [
      `--defaults-file=${client}`,
      '--single-transaction',
      '--quick',
      '--skip-lock-tables',
      '--routines',
      '--triggers',
      '--events',
      '--hex-blob',
      '--default-character-set=utf8mb4',
      '--databases',
      ...schemas,
    ],
    { stdio: ['ignore', 'pipe', 'pipe'] },
  );
  const ended = endOf(child, 'mariadb-dump');
  try {
    await Promise.all([pipeline(child.stdout, createGzip(), createWriteStream(file, { mode: 0o600 })), ended]);
  } finally {
    child.kill();
  }
}

export async function digestOf(file: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(file), hash);
  return hash.digest('hex');
}

/** Runs a program to its end; throws with what it said where that is none in order. */
export function runProgram(program: string, args: string[]): Promise<void> {
  return endOf(spawn(program, args, { stdio: ['ignore', 'ignore', 'pipe'] }), program);
}

export const firstLine = (error: unknown): string => String((error as Error).message).split('\n')[0]!;

export const readManifest = async (folder: string): Promise<Manifest> => {
  const text = await readFile(join(folder, backupFiles.manifest), 'utf8').catch(() => null);
  if (text === null) throw new Advice('This is no back-up of Stone Porch: it says nothing of itself.');
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch {
    throw new Advice('This back-up is damaged: what it says of itself can’t be read.');
  }
  const { error, value } = manifestSchema.validate(read);
  if (error) throw new Advice(`This back-up is none that this version can read: ${error.message}.`);
  return value;
};
