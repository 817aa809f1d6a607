import type { Catalogue, Ceiling } from '../../core/table/catalogue';
import { withCeilings } from '../../core/definition/ceilings';
import { withColumnKinds } from '../../core/definition/column-kinds';
import { withDeclaredRelations } from '../../core/definition/declared-relations';
import { readDefinition } from '../../core/definition/read';
import type { PortalDefinition } from '../../core/definition/definition';
import { SourceGone } from '../sources/gone';
import { withSavedQueries, type SavedQuery } from '../gate/saved-query';
import { openConnected, type ConnectedDatabase } from '../sources/connected';
import { MariadbSource, type DatabaseAddress } from '../sources/mariadb';
import type { Source } from '../sources/source';
import { Version, type Portal } from '../store/models';

const kept = 100;

/** Read definitions by what can't change: a version's number, a draft's revision. A copy in memory is never stale. */
export class Definitions {
  private readonly read = new Map<string, PortalDefinition>();

  async version(portalId: number, number: number): Promise<PortalDefinition> {
    return this.remember(`v/${portalId}/${number}`, async () => (await Version.findOne({ where: { portalId, number }, rejectOnEmpty: true })).document);
  }

  draft(portal: Portal): Promise<PortalDefinition> {
    return this.remember(`d/${portal.id}/${portal.revision}`, async () => portal.draft);
  }

  private async remember(key: string, load: () => Promise<string>): Promise<PortalDefinition> {
    const found = this.read.get(key);
    if (found) return found;
    const definition = readDefinition(JSON.parse(await load()));
    this.read.set(key, definition);
    if (this.read.size > kept) this.read.delete(this.read.keys().next().value!);
    return definition;
  }
}

/** Gives the ceilings of a schema's tables. */
export type CeilingsOf = (schema: string) => Promise<Record<string, Ceiling>>;

/** Gives the saved queries of a source. */
export type QueriesOf = (schema: string) => Promise<SavedQuery[]>;

/** Gives a connected database by its name, with a number that grows when it is changed; null when there is none. */
export type ConnectionOf = (name: string) => Promise<{ known: ConnectedDatabase; revision: number } | null>;

/** The connected schemas, each with one pool of connections, and the ceilings over them. */
export class Sources {
  private readonly open = new Map<string, Source>();
  /** By the catalogue as read, so that ceilings are asked for again when it is. */
  private readonly covered = new WeakMap<Catalogue, Promise<Catalogue>>();
  private readonly declared = new WeakMap<Catalogue, WeakMap<PortalDefinition, Catalogue>>();

  constructor(
    private readonly address: DatabaseAddress,
    private readonly connections = 10,
    private readonly ceilingsOf: CeilingsOf = () => Promise.resolve({}),
    private readonly connectionOf: ConnectionOf = () => Promise.resolve(null),
    private readonly queriesOf: QueriesOf = () => Promise.resolve([]),
  ) {}

  get(schema: string): Source {
    let source = this.open.get(schema);
    if (!source) {
      source = new MariadbSource(this.address, schema, this.connections);
      this.open.set(schema, source);
    }
    return source;
  }

  async of(definition: PortalDefinition): Promise<{ source: Source; catalogue: Catalogue }> {
    const { connection, schema } = definition.source;
    const source = connection === undefined ? this.get(schema) : await this.connected(connection, schema);
    return { source, catalogue: this.declare(await this.cover(connection === undefined ? schema : `${connection}/${schema}`, source, await source.catalogue()), definition) };
  }

  /** One pool for each connection and schema; one that was changed since is closed. */
  private async connected(name: string, schema: string): Promise<Source> {
    const found = await this.connectionOf(name);
    if (!found) throw new SourceGone(`The connection ${name} is gone, or its password can't be read. Connect it again under Portals.`);
    const key = `${name}\n${schema}\n${found.revision}`;
    let source = this.open.get(key);
    if (!source) {
      for (const [other, old] of this.open) {
        if (!other.startsWith(`${name}\n${schema}\n`)) continue;
        this.open.delete(other);
        void old.close();
      }
      source = openConnected(found.known, schema, this.connections);
      this.open.set(key, source);
    }
    return source;
  }

  /** The same catalogue and definition give the same object, so that what is kept by it is found again. */
  private declare(catalogue: Catalogue, definition: PortalDefinition): Catalogue {
    const ofCatalogue = this.declared.get(catalogue) ?? new WeakMap<PortalDefinition, Catalogue>();
    this.declared.set(catalogue, ofCatalogue);
    let known = ofCatalogue.get(definition);
    if (!known) {
      known = withColumnKinds(withDeclaredRelations(catalogue, definition), definition);
      ofCatalogue.set(definition, known);
    }
    return known;
  }

  private cover(schema: string, source: Source, catalogue: Catalogue): Promise<Catalogue> {
    let covered = this.covered.get(catalogue);
    if (!covered) {
      covered = Promise.all([this.ceilingsOf(schema), this.queriesOf(schema)]).then(async ([ceilings, queries]) => withSavedQueries(source, withCeilings(catalogue, ceilings), queries));
      this.covered.set(catalogue, covered);
      covered.catch(() => this.covered.delete(catalogue));
    }
    return covered;
  }

  async close(): Promise<void> {
    await Promise.all([...this.open.values()].map((source) => source.close()));
  }
}
