import type { PortalDefinition, PortalSource } from './definition';

/** Where a source is to be: the connection is empty for the product's own server. */
export interface SourcePlace {
  kind: PortalSource['kind'];
  connection: string;
  schema: string;
}

/**
 * A definition of another portal: at another address, under another name, and over other sources, by their short names
 * (empty for its own). What is not named stays.
 */
export function movedDefinition(
  definition: PortalDefinition,
  portal: { slug?: string; name?: string },
  places: Readonly<Record<string, SourcePlace>>,
): PortalDefinition {
  const placed = (name: string, { connection: _was, ...source }: PortalSource): PortalSource => {
    const place = Object.hasOwn(places, name) ? places[name]! : { ...source, connection: _was ?? '' };
    const { kind, connection, schema } = place;
    return { ...source, kind, schema, ...(connection === '' ? {} : { connection }) };
  };
  const { sources } = definition;
  return {
    ...definition,
    portal: { ...definition.portal, ...portal },
    source: placed('', definition.source),
    ...(sources
      ? { sources: Object.fromEntries(Object.entries(sources).map(([name, source]) => [name, placed(name, source)])) }
      : {}),
  };
}
