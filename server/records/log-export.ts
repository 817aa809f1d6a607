import { writeAudit } from '../audit/audit';
import type { PortalVisit } from '../visits/member-visit';

type Taking = Pick<PortalVisit, 'portalId' | 'person'> & Partial<Pick<PortalVisit, 'name' | 'email'>>;

/** Who takes records out, in words. */
function taker({ person, name, email }: Taking): string {
  switch (person.kind) {
    case 'member':
      return `${name ?? 'A member'} <${email ?? person.email ?? ''}>`;
    case 'service':
      return `A program, as ${person.roles.join(', ')}`;
    case 'visitor':
      return 'Whoever came without signing in';
    case 'builder':
      return name ? `${name} <${email ?? ''}>` : 'A builder';
  }
}

/** Writes down that somebody takes records out as a file: of which table, and in which form. */
export const logExport = (visit: Taking, table: string, format: string): Promise<void> =>
  writeAudit(visit.portalId, taker(visit), 'exported', `${table}, as ${format}`);
