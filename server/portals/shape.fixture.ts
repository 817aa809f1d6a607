import { afterAll, beforeAll, inject } from 'vitest';
import type { Connection } from 'mariadb';
import { demoPassword } from '../../demo/load';
import { demoServer, type Client } from '../../test/server';
import { freshSchema, schemaOfWorker } from '../../test/tables';
import type { PortalDefinition } from '../../core/definition/definition';
import type { RunningServer } from '../server';
import { Portal } from '../store/models';

const records = schemaOfWorker('shapes');
const own = schemaOfWorker('shapes_own');

export let plain: Connection;

export let server: RunningServer;

export let builder: Client;

export let client: () => Client;

export const at = '/builder/portals/alder-fen';

export const shape = `${at}/shape`;

/** To be called once in each file that uses these: several files may share one process. */
export function withShapedPortal(): void {
  beforeAll(async () => {
    plain = await freshSchema(inject('database'), records);
    await (await freshSchema(inject('database'), own)).end();
    ({ server, client } = await demoServer(inject('database'), records, own));
    builder = client();
    await builder.post('/builder/sign-in', { email: 'builder@example.org', password: demoPassword });
    await plain.query(`USE ${records}`);
  });

  afterAll(async () => {
    await server?.close();
    await plain?.end();
  });
}

export const one = async (text: string) =>
  Object.values((await plain.query<Record<string, unknown>[]>(text))[0] ?? {}).map((value) =>
    value === null ? null : String(value),
  );

export const plainColumn = { required: false, unique: false, initial: null };

export const draft = async () =>
  JSON.parse((await Portal.findOne({ where: { slug: 'alder-fen' }, rejectOnEmpty: true })).draft) as PortalDefinition;
