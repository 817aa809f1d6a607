import type { Catalogue, Ceiling } from '../../core/table/catalogue';
import { withCeilings } from '../../core/definition/ceilings';
import { readDefinition } from '../../core/definition/read';
import type { PortalDefinition } from '../../core/definition/definition';
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

/** The connected schemas, each with one pool of connections, and the ceilings over them. */
export class Sources {
  private readonly open = new Map<string, Source>();
  /** By the catalogue as read, so that ceilings are asked for again when it is. */
  private readonly covered = new WeakMap<Catalogue, Promise<Catalogue>>();

  constructor(
    private readonly address: DatabaseAddress,
    private readonly connections = 10,
    private readonly ceilingsOf: CeilingsOf = () => Promise.resolve({}),
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
    const source = this.get(definition.source.schema);
    return { source, catalogue: await this.cover(definition.source.schema, await source.catalogue()) };
  }

  private cover(schema: string, catalogue: Catalogue): Promise<Catalogue> {
    let covered = this.covered.get(catalogue);
    if (!covered) {
      covered = this.ceilingsOf(schema).then((ceilings) => withCeilings(catalogue, ceilings));
      this.covered.set(catalogue, covered);
      covered.catch(() => this.covered.delete(catalogue));
    }
    return covered;
  }

  async close(): Promise<void> {
    await Promise.all([...this.open.values()].map((source) => source.close()));
  }
}
