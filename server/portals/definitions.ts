import type { Catalogue } from '../../core/table/catalogue';
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

/** The connected schemas, each with one pool of connections. */
export class Sources {
  private readonly open = new Map<string, Source>();

  constructor(
    private readonly address: DatabaseAddress,
    private readonly connections = 10,
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
    return { source, catalogue: await source.catalogue() };
  }

  async close(): Promise<void> {
    await Promise.all([...this.open.values()].map((source) => source.close()));
  }
}
