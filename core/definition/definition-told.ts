import type { PortalDefinition, PortalSource } from './definition';

/** A source that a definition names. */
interface SourceTold {
  /** The short name before its tables; null for the portal's own. */
  name: string | null;
  kind: PortalSource['kind'];
  connection: string | null;
  schema: string;
}

/** What a definition is of. */
export interface DefinitionTold {
  slug: string;
  name: string;
  sources: SourceTold[];
}

/** Tells what a definition is of, and where it has its records. */
export function toldOf({ portal, source, sources = {} }: PortalDefinition): DefinitionTold {
  const all: [string | null, PortalSource][] = [[null, source], ...Object.entries(sources)];
  return {
    slug: portal.slug,
    name: portal.name,
    sources: all.map(([name, { kind, connection = null, schema }]) => ({ name, kind, connection, schema })),
  };
}
