import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { mayBuild } from '../sessions/as-builder';
import { Builder, Portal } from '../store/models';
import { Problem } from '../../core/refusals/problem';
import type { ConnectionServices } from './connections';
import type { AdmitSources } from '../drafts/draft';
import { listSchemas } from './schemas';

type Needed = Pick<ConnectionServices, 'connections' | 'sources' | 'store' | 'ownSchema'>;

/**
 * Sources that a draft gets must be there, may be used by whoever adds them, and never hold the product's own tables.
 * They are added by nobody who is kept from personal data: no column of theirs has a data class yet.
 * `builder` is null on the command line, where whoever runs it has the database anyway.
 */
export function admitSources(services: Needed, builder: number | null): AdmitSources {
  return async (added) => {
    const who = builder === null ? null : await Builder.findByPk(builder, { rejectOnEmpty: true });
    if (who && !who.seesPersonal)
      throw new Problem(
        403,
        'personal-data',
        'Of tables that come with a source nobody has said yet which columns hold personal data, and you are kept ' +
          'from that. Ask a colleague to add the source.',
      );
    const open = who && (await schemasOpenTo(who));
    for (const source of added) {
      if (builder !== null) await services.connections.refuseOthers([source.connection], builder);
      await requireSource(services, source);
      // In the words of one that is not there.
      if (source.connection === undefined && open && !open.has(source.schema)) throw noSchema(source.schema);
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
    throw noSchema(schema);
  }
}

const noSchema = (schema: string): Problem =>
  new Problem(422, 'invalid-values', `There is no schema ${schema} to connect.`, {
    fields: { schema: 'There is no such schema. Choose one from the list.' },
  });

/**
 * The schemas of the product's own server that a builder may have records in; null for all. Whoever may work at some
 * portals only has those of these portals: a portal over another's schema would open that one's records.
 */
export async function schemasOpenTo(builder: Builder): Promise<Set<string> | null> {
  if (builder.portals === null) return null;
  const portals = (await Portal.findAll()).filter(({ id }) => mayBuild(builder, id));
  const sources = portals.flatMap(({ draft }) => {
    const { source, sources: further = {} } = JSON.parse(draft) as PortalDefinition;
    return [source, ...Object.values(further)];
  });
  return new Set(sources.filter(({ connection }) => connection === undefined).map(({ schema }) => schema));
}
