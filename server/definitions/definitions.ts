import { readDefinition } from '../../sections/definition';
import { withSavedQueries, type SavedQuery, type Part } from '../gate/gate';
import type { Catalogue, Table } from '../../core/table/catalogue';
import { withCeilings, type Ceiling } from '../../core/definition/ceilings';
import { withAddresses } from '../../core/definition/addresses';
import { withColumnKinds } from '../../core/definition/column-kinds';
import { withDeclaredKeys } from '../../core/definition/declared-keys';
import { withDeclaredRelations } from '../../core/definition/declared-relations';
import type { PortalDefinition, PortalSource } from '../../core/definition/definition';
import { chosenTables, namedCatalogue, sourceCalled, sourceName } from '../../core/definition/sources';
import type { Asker } from '../sources/asker';
import { SourceGone } from '../sources/gone';
import { openConnected } from '../sources/connected';
import type { ConnectedDatabase } from '../sources/connected-database';
import { MariadbSource } from '../sources/mariadb';
import type { DatabaseAddress } from '../sources/connect-sequelize';
import type { Source } from '../sources/source';
import { Version, type Portal } from '../store/models';

/** So many definitions, and so many schemas, are kept at most: what wasn't asked for longest goes first. */
const kept = 100;

/** Of so many schemas connections wait for the next question; a database takes only so many of them. */
const connected = 30;

/** One that is no longer kept may still be in use; the last of its connections has gone by then, in milliseconds. */
const lingers = 60_000;

/** Read definitions by what can't change: a version's number, a draft's revision. A copy in memory is never stale. */
export class Definitions {
  private read = new Map<string, PortalDefinition>();

  async version(portalId: number, number: number): Promise<PortalDefinition> {
    return this.remember(
      `v/${portalId}/${number}`,
      async () => (await Version.findOne({ where: { portalId, number }, rejectOnEmpty: true })).document,
    );
  }

  draft(portal: Portal): Promise<PortalDefinition> {
    return this.remember(`d/${portal.id}/${portal.revision}`, async () => portal.draft);
  }

  /** Versions follow renamings, so none is kept past one. */
  forget(): void {
    this.read = new Map();
  }

  private async remember(key: string, load: () => Promise<string>): Promise<PortalDefinition> {
    const found = this.read.get(key);
    if (found) {
      used(this.read, key, found);
      return found;
    }
    const { read } = this;
    const definition = readDefinition(JSON.parse(await load()));
    // Read before a renaming, and told after it: good for this asker, not for later ones.
    if (read !== this.read) return definition;
    used(this.read, key, definition);
    return definition;
  }
}

/** Puts it at the end of those that are kept, and gives the one that has to go for it. */
function used<T>(all: Map<string, T>, key: string, one: T): T | undefined {
  all.delete(key);
  all.set(key, one);
  if (all.size <= kept) return undefined;
  const [oldest, gone] = all.entries().next().value!;
  all.delete(oldest);
  return gone;
}

export interface Opened extends Part {
  elsewhere?: (source: string | null) => Promise<Part>;
}

const partAskedBy = (asker: Asker | undefined, part: Part): Part =>
  asker ? { ...part, source: part.source.askedBy(asker) } : part;

/** Gives the ceilings of a schema's tables. */
type CeilingsOf = (schema: string) => Promise<Record<string, Ceiling>>;

/** Gives the saved queries of a source. */
type QueriesOf = (schema: string) => Promise<SavedQuery[]>;

/** Gives a connected database by its name, with a number that grows when it is changed; null when there is none. */
type ConnectionOf = (name: string) => Promise<{ known: ConnectedDatabase; revision: number } | null>;

/** What the sources are opened with. */
export interface SourcesOptions {
  /** The product's own schema, which is nobody's source. */
  ownSchema: string;
  /** Open connections to each source. */
  connections?: number;
  /** So long a statement may run in the product's own database. */
  statementSeconds?: number;
  ceilingsOf?: CeilingsOf;
  connectionOf?: ConnectionOf;
  /** Throws where no connection may lead to a host. */
  mayReach?: (host: string) => Promise<void>;
  queriesOf?: QueriesOf;
}

const systemSchemas = ['information_schema', 'mysql', 'performance_schema', 'sys'];

/** Tables by which an installation's own schema is known, whatever it is called and however it is reached. */
const ownTables = ['portals', 'sessions', 'builders', 'memberships', 'migrations'];

/** Whether a schema holds the tables of an installation of ours. */
function holdsOurs(catalogue: Catalogue): boolean {
  const names = new Set(catalogue.tables.map((table) => table.name.toLowerCase()));
  return ownTables.every((table) => names.has(table));
}

/** The connected schemas, each with one pool of connections, and the ceilings over them. */
export class Sources {
  private readonly open = new Map<string, Source>();
  private newest: Source | null = null;
  /** Those that are kept no longer: an answer or a job may still use them, and their connections end when unused. */
  private readonly leaving = new Set<Source>();
  /** By the catalogue as read, so that ceilings are asked for again when it is. */
  private covered = new WeakMap<Catalogue, Promise<Catalogue>>();
  private readonly declared = new WeakMap<Catalogue, WeakMap<PortalDefinition, Map<string | null, Catalogue>>>();

  constructor(
    private readonly address: DatabaseAddress,
    private readonly options: SourcesOptions,
  ) {}

  /** Reads catalogues, ceilings and saved queries anew at the next question. */
  forget(): void {
    this.covered = new WeakMap();
    for (const source of [...this.open.values(), ...this.leaving]) source.forget();
  }

  /** Some servers know a schema by its name in any letter case. */
  private isClosed(schema: string): boolean {
    return [this.options.ownSchema.toLowerCase(), ...systemSchemas].includes(schema.toLowerCase());
  }

  /** A schema of the product's own server. */
  get(schema: string): Source {
    if (this.isClosed(schema)) throw new SourceGone(`The schema ${schema} is no portal's.`);
    let source = this.open.get(schema);
    if (!source) {
      source = new MariadbSource(this.address, schema, this.options.connections, {
        own: true,
        statementSeconds: this.options.statementSeconds ?? 20,
      });
    }
    return this.keep(schema, source);
  }

  private keep(key: string, source: Source): Source {
    if (this.newest === source) return source;
    this.newest = source;
    const gone = used(this.open, key, source);
    [...this.open.values()].at(-1 - connected)?.endIdle?.();
    if (gone) {
      this.leaving.add(gone);
      setTimeout(() => this.leaving.delete(gone), lingers).unref();
    }
    return source;
  }

  /**
   * The name of the product's own schema where a definition's records stand on the same server; null elsewhere. Of the
   * portal's own source, or of the one that a table is of.
   */
  beside(definition: PortalDefinition, table = ''): string | null {
    const { connection } = sourceCalled(definition, sourceName(definition, table));
    return connection === undefined ? this.options.ownSchema : null;
  }

  /** What stands before the product's tables in statements at the definition's own source, as `beside` tells. */
  ownPrefix(definition: PortalDefinition): string | null {
    const schema = this.beside(definition);
    return schema === null ? null : `\`${schema.replaceAll('`', '``')}\`.`;
  }

  /**
   * The definition's own source; `elsewhere` opens the further ones, and is absent when there are none. As they are
   * asked by somebody who may go, where there is one.
   */
  async of(definition: PortalDefinition, asker?: Asker): Promise<Opened> {
    const elsewhere = async (name: string | null): Promise<Part> =>
      partAskedBy(asker, { ...(await this.part(definition, name)), place: name });
    if (!definition.sources || Object.keys(definition.sources).length === 0) return elsewhere(null);
    return { ...(await elsewhere(null)), elsewhere };
  }

  /**
   * Every source of a definition, its own first, and all their tables as one catalogue. One that can't be opened gives
   * its reason. As somebody asks them who may go, where there is one.
   */
  async all(
    definition: PortalDefinition,
    asker?: Asker,
  ): Promise<{ parts: Part[]; catalogue: Catalogue; away: { name: string; error: unknown }[] }> {
    const own = await this.part(definition, null);
    const away: { name: string; error: unknown }[] = [];
    const others = await Promise.all(
      Object.keys(definition.sources ?? {}).map((name) =>
        this.part(definition, name).catch((error: unknown) => {
          away.push({ name, error });
          return null;
        }),
      ),
    );
    const parts = [own, ...others.filter((part) => part !== null)].map((part) => partAskedBy(asker, part));
    return {
      parts,
      away,
      catalogue:
        parts.length === 1
          ? own.catalogue
          : { ...own.catalogue, tables: parts.flatMap((part) => part.catalogue.tables) },
    };
  }

  /** Whether a schema holds an installation's own tables. */
  async isOurs({ connection, schema }: PortalSource): Promise<boolean> {
    if (connection === undefined && this.isClosed(schema)) return true;
    return holdsOurs(
      await (connection === undefined ? this.get(schema) : await this.connected(connection, schema)).catalogue(),
    );
  }

  /** The schema that a portal source names. Throws SourceGone where it holds an installation's own tables. */
  async at({ connection, schema }: PortalSource): Promise<Source> {
    const source = connection === undefined ? this.get(schema) : await this.connected(connection, schema);
    if (holdsOurs(await source.catalogue()))
      throw new SourceGone(`The schema ${schema} holds an installation of Stone Porch, so it is no portal's.`);
    return source;
  }

  private async part(definition: PortalDefinition, name: string | null): Promise<Part> {
    const at = sourceCalled(definition, name);
    const source = await this.at(at);
    const covered = await this.cover(
      at.connection === undefined ? at.schema : `${at.connection}/${at.schema}`,
      source,
      await source.catalogue(),
    );
    const rosters =
      name === null
        ? undefined
        : (await this.part(definition, null)).catalogue.tables.filter((table) =>
            definition.rosters.some((roster) => roster.table === table.name),
          );
    return { source, catalogue: this.declare(covered, definition, name, rosters) };
  }

  /** One pool for each connection and schema; one that was changed since is closed. */
  private async connected(name: string, schema: string): Promise<Source> {
    const found = await (this.options.connectionOf?.(name) ?? null);
    if (!found)
      throw new SourceGone(
        `The connection ${name} is gone, or its password can't be read. Connect it again under Portals.`,
      );
    const key = `${name}\n${schema}\n${found.revision}`;
    let source = this.open.get(key);
    if (!source) {
      for (const [other, old] of this.open) {
        if (!other.startsWith(`${name}\n${schema}\n`)) continue;
        this.open.delete(other);
        void old.close();
      }
      await this.options.mayReach?.(found.known.host);
      source = openConnected(found.known, schema, this.options.connections);
    }
    return this.keep(key, source);
  }

  /** The same catalogue and definition give the same object, so that what is kept by it is found again. */
  private declare(
    catalogue: Catalogue,
    definition: PortalDefinition,
    name: string | null,
    rosters: Table[] | undefined,
  ): Catalogue {
    const ofCatalogue = this.declared.get(catalogue) ?? new WeakMap<PortalDefinition, Map<string | null, Catalogue>>();
    this.declared.set(catalogue, ofCatalogue);
    const ofDefinition = ofCatalogue.get(definition) ?? new Map<string | null, Catalogue>();
    ofCatalogue.set(definition, ofDefinition);
    let known = ofDefinition.get(name);
    if (!known || rosters?.some((table, i) => known!.rosters?.[i] !== table)) {
      // A table of the own source whose name reads as one of another is left out: what is granted there is not meant
      // for it.
      const chosen = chosenTables(catalogue, sourceCalled(definition, name).tables);
      const own =
        name === null && definition.sources
          ? { ...chosen, tables: chosen.tables.filter((table) => sourceName(definition, table.name) === null) }
          : namedCatalogue(chosen, name);
      known = {
        ...withAddresses(
          withColumnKinds(withDeclaredRelations(withDeclaredKeys(own, definition), definition), definition),
          definition,
        ),
        ...(rosters ? { rosters } : {}),
      };
      ofDefinition.set(name, known);
    }
    return known;
  }

  private cover(schema: string, source: Source, catalogue: Catalogue): Promise<Catalogue> {
    let covered = this.covered.get(catalogue);
    if (!covered) {
      covered = Promise.all([this.options.ceilingsOf?.(schema) ?? {}, this.options.queriesOf?.(schema) ?? []]).then(
        async ([ceilings, queries]) => withSavedQueries(source, withCeilings(catalogue, ceilings), queries),
      );
      this.covered.set(catalogue, covered);
      const { covered: kept } = this;
      covered.catch(() => kept.delete(catalogue));
    }
    return covered;
  }

  async close(): Promise<void> {
    await Promise.all([...this.open.values(), ...this.leaving].map((source) => source.close()));
  }
}
