import type { CoreServices } from '../definitions/portal-services';
import { unseal, seal } from '../store/secret';
import { Op } from 'sequelize';
import type { ConnectedDatabase } from '../sources/connected-database';
import { tryConnection, type TriedConnection } from '../sources/try-connection';
import type { PortalDefinition } from '../../core/definition/definition';
import { Problem } from '../../core/refusals/problem';
import { Connection, Portal, Version } from '../store/models';

export { databaseKinds, tlsModes } from '../sources/connected-database';

/** A connection as builders see it: everything but the password. */
export type ConnectionInfo = Omit<ConnectedDatabase, 'password'> & {
  name: string;
  usedBy: string[];
  builders: number[] | null;
};

/**
 * What the form sends; an empty password keeps the one that is there. `builders` are the ids of those who may use it,
 * null for all.
 */
export type ConnectionForm = ConnectedDatabase & { name: string; builders: number[] | null };

/** What routes on connections and sources work with. */
export type ConnectionServices = CoreServices & {
  connections: Connections;
  /** The product's own schema, which no portal may connect. */
  ownSchema: string;
};

/** The databases that builders connected, with their passwords sealed under the installation's key. */
export class Connections {
  /** `privateAddresses` lets them lead to this machine and its own network. */
  constructor(
    private readonly key: Buffer,
    private readonly privateAddresses: boolean,
  ) {}

  /** Those that a builder may use. */
  async list(builder: number): Promise<ConnectionInfo[]> {
    const uses = await usesOfConnections();
    const all = await Connection.findAll({ order: [['name', 'ASC']] });
    return all
      .filter((each) => mayUse(each, builder))
      .map(({ name, kind, host, port, database, user, tls, builders }) => ({
        name,
        kind,
        host,
        port,
        database,
        user,
        tls,
        usedBy: uses.get(name) ?? [],
        builders: builders === null ? null : (JSON.parse(builders) as number[]),
      }));
  }

  /** Throws where one of the connections is kept for other builders; what has no name is the product's own database. */
  async refuseOthers(names: readonly (string | undefined)[], builder: number): Promise<void> {
    const wanted = names.filter((name) => name !== undefined);
    if (wanted.length === 0) return;
    const found = (await Connection.findAll({ where: { name: wanted } })).find(
      (connection) => !mayUse(connection, builder),
    );
    if (found)
      throw new Problem(
        403,
        'not-yours',
        `The connection ${found.name} is kept for other builders. Ask one of them to let you use it.`,
      );
  }

  /**
   * Throws where a portal has its records in a connection that is kept for other builders: in its draft, or in any
   * version of it.
   */
  async refuseOthersPortal(portalId: number, builder: number): Promise<void> {
    const kept = (await Connection.findAll({ where: { builders: { [Op.ne]: null } } })).filter(
      (connection) => !mayUse(connection, builder),
    );
    if (kept.length === 0) return;
    const used = await connectionsOf(portalId);
    const found = kept.find((connection) => used.has(connection.name));
    if (found)
      throw new Problem(
        403,
        'not-yours',
        `This portal has, or had, records in the connection ${found.name}, which is kept for other builders. ` +
          'Ask one of them to let you use it.',
      );
  }

  /** A connection ready to be opened; null when there is none, or when its password was sealed under another key. */
  async find(name: string): Promise<{ known: ConnectedDatabase; revision: number } | null> {
    const found = await Connection.findOne({ where: { name } });
    const password = found && unseal(this.key, found.name, found.sealedPassword);
    if (!found || password === null) return null;
    const { kind, host, port, database, user, tls, revision } = found;
    return { known: { kind, host, port, database, user, tls, password }, revision };
  }

  /** The schemas that a portal could have its records in. */
  async schemas(name: string): Promise<string[]> {
    const found = await this.find(name);
    if (!found)
      throw new Problem(
        404,
        'not-found',
        "There is no such connection, or its password can't be read any more. Enter it again.",
      );
    return (await tryConnection(found.known, this.privateAddresses)).schemas;
  }

  /** Tries what the form says, without keeping it. */
  async try(form: ConnectionForm): Promise<TriedConnection> {
    return tryConnection({ ...form, password: await this.passwordOf(form) }, this.privateAddresses);
  }

  /** Keeps the connection when it can be used. */
  async save(form: ConnectionForm, builder: number): Promise<TriedConnection> {
    await this.refuseOthers([form.name], builder);
    if (form.builders !== null && !form.builders.includes(builder))
      throw new Problem(422, 'invalid-values', 'You would lock yourself out.', {
        fields: { builders: 'Keep yourself among those who may use it.' },
      });
    const password = await this.passwordOf(form);
    const tried = await tryConnection({ ...form, password }, this.privateAddresses);
    const known = await Connection.findOne({ where: { name: form.name } });
    const { name, kind, host, port, database, user, tls } = form;
    const values = {
      name,
      kind,
      host,
      port,
      database,
      user,
      tls,
      sealedPassword: seal(this.key, name, password),
      builders: form.builders === null ? null : JSON.stringify(form.builders),
      revision: (known?.revision ?? 0) + 1,
    };
    await (known ? known.update(values) : Connection.create(values));
    return tried;
  }

  async remove(name: string): Promise<void> {
    const uses = (await usesOfConnections()).get(name);
    if (uses)
      throw new Problem(
        422,
        'in-use',
        `The connection ${name} holds the records of ${uses.join(', ')}. Give those portals another source first.`,
      );
    if ((await Connection.destroy({ where: { name } })) === 0)
      throw new Problem(404, 'not-found', 'There is no such connection.');
  }

  /**
   * A password that was kept may only be used with the same address: else whoever changes the address would be sent it.
   */
  private async passwordOf(form: ConnectionForm): Promise<string> {
    if (form.password !== '') return form.password;
    const kept = await this.find(form.name);
    const same =
      kept &&
      kept.known.kind === form.kind &&
      kept.known.host === form.host &&
      kept.known.port === form.port &&
      kept.known.user === form.user;
    return same ? kept.known.password : '';
  }
}

function mayUse(connection: Connection, builder: number): boolean {
  return connection.builders === null || (JSON.parse(connection.builders) as number[]).includes(builder);
}

/** The connections that a portal's draft and versions have, of whatever time. */
async function connectionsOf(portalId: number): Promise<Set<string>> {
  const portal = await Portal.findByPk(portalId, { attributes: ['draft'] });
  const versions = await Version.findAll({ where: { portalId }, attributes: ['document'] });
  const documents = [...(portal ? [portal.draft] : []), ...versions.map((version) => version.document)];
  return new Set(documents.flatMap(connectionsIn));
}

function connectionsIn(document: string): string[] {
  const { source, sources } = JSON.parse(document) as Pick<PortalDefinition, 'source' | 'sources'>;
  return [source, ...Object.values(sources ?? {})].flatMap(({ connection }) =>
    connection === undefined ? [] : [connection],
  );
}

/** The portals, by their address, whose draft or any version has its records in a connection. */
async function usesOfConnections(): Promise<Map<string, string[]>> {
  const uses = new Map<string, string[]>();
  for (const { slug, id } of await Portal.findAll({ attributes: ['id', 'slug'] })) {
    for (const connection of await connectionsOf(id)) uses.set(connection, [...(uses.get(connection) ?? []), slug]);
  }
  return uses;
}
