import type { PortalSource } from '../../core/definition/definition';
import { Problem } from '../../core/refusals/problem';
import type { ConnectionServices } from './connections';
import type { AdmitSources } from '../drafts/draft';
import { listSchemas } from './schemas';

type Needed = Pick<ConnectionServices, 'connections' | 'sources' | 'store' | 'ownSchema'>;

/**
 * Sources that a draft gets must be there, may be used by whoever adds them, and never hold the product's own tables.
 * `builder` is null on the command line, where whoever runs it has the database anyway.
 */
export function admitSources(services: Needed, builder: number | null): AdmitSources {
  return async (added) => {
    for (const source of added) {
      if (builder !== null) await services.connections.refuseOthers([source.connection], builder);
      await requireSource(services, source);
    }
  };
}

async function requireSource({ connections, sources, store, ownSchema }: Needed, source: PortalSource): Promise<void> {
  const { kind, connection, schema } = source;
  const known = connection === undefined ? null : await connections.find(connection);
  if (connection !== undefined && known?.known.kind !== kind)
    throw new Problem(422, 'invalid-values', `There is no connection ${connection} to a ${kind} database here.`, {
      fields: { connection: 'There is no such connection. Make it first.' },
    });
  const schemas =
    connection === undefined ? await listSchemas(store.sequelize, ownSchema) : await connections.schemas(connection);
  if ((connection === undefined && kind !== 'mariadb') || !schemas.includes(schema) || (await sources.isOurs(source))) {
    throw new Problem(422, 'invalid-values', `There is no schema ${schema} to connect.`, {
      fields: { schema: 'There is no such schema. Choose one from the list.' },
    });
  }
}
