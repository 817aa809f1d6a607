import type { PortalSource } from '../../core/definition/definition';

/** The name under which something of a source is kept. */
export function keptOf(what: 'ceilings' | 'queries', { connection, schema }: PortalSource): string {
  return `${what}/${connection === undefined ? '' : `${connection}/`}${schema}`;
}
